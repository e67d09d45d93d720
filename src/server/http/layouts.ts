// Layouts: kept, converted, made from a folder that is there.

import { z } from 'zod';
import { AppError } from '@/core/errors';
import { isWithin, nameOf } from '@/core/files/treePath';
import { layoutOfFolders, readLayoutText, writeLayout } from '@/core/layouts/layout';
import type { Recognised } from '@/core/plans/planAdopt';
import { parseLayoutJson, layoutJsonOf } from '@/wire/layout';
import type { LayoutView } from '@/wire/views';
import { removeLayout, saveLayout } from '../workspaces/layoutLibrary';
import { folderIn } from './folders';
import { endpoint } from './handle';
import { layoutOf, layoutSource, layoutViews } from './workspaceView';

const none = z.object({});

export const layoutEndpoints = [
  endpoint('GET', '/api/layouts', none, async (h): Promise<LayoutView[]> => layoutViews(h)),
  endpoint(
    'POST',
    '/api/layouts',
    z.object({ text: z.string().max(200_000), replaces: z.string().nullable().default(null) }),
    async (h, input) => {
      const saved = saveLayout(h.dataFolder, input.text, input.replaces);
      return { id: saved.id };
    },
  ),
  endpoint('DELETE', '/api/layouts', z.object({ id: z.string() }), async (h, input) => {
    removeLayout(h.dataFolder, input.id);
    return {};
  }),
  endpoint(
    'POST',
    '/api/layouts/convert',
    z.object({ json: z.string().max(1_000_000).optional(), text: z.string().max(200_000).optional() }),
    async (_h, input) => {
      if (input.json !== undefined) return { text: writeLayout(parseLayoutJson(input.json)) };
      const read = readLayoutText(input.text ?? '');
      if (read.problems[0])
        throw new AppError(
          'bad-layout',
          read.problems[0].message,
          'Nothing was changed.',
          read.problems.map((p) => `Line ${p.line}: ${p.message}`),
        );
      return { json: `${JSON.stringify(layoutJsonOf(read), null, 2)}\n` };
    },
  ),
  endpoint('POST', '/api/layouts/from-folder', z.object({ path: z.string() }), async (h, input) => {
    const at = await folderIn(h, input.path);
    const layout = layoutOf(h, { id: 'game-environment' });
    return h.jobs.start({
      order: { work: 'recognise', root: at, layout: layoutSource(layout) },
      title: `Look through ${nameOf(at)}`,
      workspace: null,
      finish: async (result) => {
        const found = result as Recognised;
        const folders = found.folders
          .map((f) => f.path)
          .filter(
            (p) =>
              p !== '' &&
              !p.split('/').some((part) => part.startsWith('.')) &&
              !found.nested.some((n) => isWithin(p, n)),
          );
        return { text: writeLayout({ tree: layoutOfFolders(folders, found.homes), name: nameOf(at) }) };
      },
    });
  }),
];
