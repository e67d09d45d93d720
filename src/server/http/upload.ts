// Takes one dropped file into its drop: streamed to disk, never held whole, whole or not at all.

import fs from 'node:fs';
import path from 'node:path';
import { staysInside } from '@/core/bags/archive';
import { AppError } from '@/core/errors';
import { makeLegal } from '@/core/names/portable';
import { freeBytes } from '../disk/use';
import { toSystem } from '../disk/system';
import { hub } from '../hub';
import { batchFolder } from '../workspaces/stage';
import { answerError } from './handle';

/** POST /api/upload?batch=…&path=pack/maps/a.png with the file's bytes as body; answers where it lies. */
export async function takeUpload(request: Request): Promise<Response> {
  try {
    if (request.headers.get('x-satchel') === null)
      throw new AppError('bad-request', 'Uploads need the header x-satchel.');
    const url = new URL(request.url);
    const h = await hub();
    const folder = batchFolder(h.dataFolder, url.searchParams.get('batch') ?? '');
    if (!fs.existsSync(toSystem(folder)))
      throw new AppError('not-found', 'This drop is not waiting any more. Drop the files again.');
    const given = url.searchParams.get('path') ?? '';
    if (!staysInside(given)) throw new AppError('bad-name', `“${given}” is no plain path.`);
    const at = given
      .split('/')
      .map((part) => makeLegal(part))
      .join('/');
    const size = Number(request.headers.get('content-length') ?? 0);
    if (size > freeBytes(folder))
      throw new AppError('disk-full', `${given} has ${size} bytes; the drive has less free.`);
    const file = toSystem(`${folder}/${at}`);
    fs.mkdirSync(path.dirname(file), { recursive: true });
    const temporary = `${file}.part`;
    const fd = fs.openSync(temporary, 'wx');
    try {
      if (request.body)
        for await (const part of request.body as unknown as AsyncIterable<Uint8Array>)
          for (let n = 0; n < part.length;) n += fs.writeSync(fd, part, n, part.length - n);
      fs.closeSync(fd);
      const modified = Number(url.searchParams.get('modified') ?? 0) / 1000;
      if (Number.isFinite(modified) && modified > 0) fs.utimesSync(temporary, modified, modified);
      fs.renameSync(temporary, file);
    } catch (cause) {
      fs.rmSync(temporary, { force: true });
      throw cause;
    }
    return Response.json({ path: `${folder}/${at}` }, { headers: { 'cache-control': 'no-store' } });
  } catch (cause) {
    return answerError(cause);
  }
}
