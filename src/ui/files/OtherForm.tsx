'use client';
// A scene in another form of its format, beside it: text, which can be read and repaired, or one file, which is easy to send.

import { FileCode2, Package, PackageOpen } from '../kit/icons';
import { z } from 'zod';
import { useAttempt } from '../kit/attempt';
import { Button } from '../kit/buttons';
import { Tick } from '../kit/fields';
import { useKept } from '../kit/kept';
import { Soft } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { usePlan } from '../kit/work';
import { space } from '../theme/theme';

interface Form {
  /** What comes behind the stem. */
  end: string;
  about: string;
  as?: 'ascii' | 'little';
  /** It is put together with all it needs, wherever that lies. */
  isWhole?: boolean;
}

const together = 'One file with all that it needs, wherever that lies.';
const apart = 'The scene beside it, and its files as they lay around it.';
const others: Record<string, readonly Form[]> = {
  '.gltf': [
    { end: '.glb', about: 'One file with its buffer in it; pictures stay beside it.' },
    { end: '_whole.glb', about: together, isWhole: true },
  ],
  '.glb': [
    { end: '.gltf', about: 'Text that can be read and repaired, with its buffer beside it.' },
    { end: '_whole.glb', about: together, isWhole: true },
  ],
  '.obj': [{ end: '.zip', about: together, isWhole: true }],
  '.ply': [
    { end: '_text.ply', about: 'Text that can be read; every number stays the number it is.', as: 'ascii' },
    { end: '_binary.ply', about: 'Binary, little-endian: smaller, and read faster.', as: 'little' },
  ],
  '.dae': [{ end: '.zae', about: together, isWhole: true }],
  '.zae': [{ end: '.dae', about: apart }],
  '.usda': [{ end: '.usdz', about: together, isWhole: true }],
  '.usdc': [
    { end: '.usdz', about: together, isWhole: true },
    { end: '.usda', about: 'Text that can be read and repaired; every number stays the number it is.' },
  ],
  '.x3d': [{ end: '.x3dv', about: 'Its classic form, in braces: shorter, and easy to read.' }],
  '.x3dv': [{ end: '.x3d', about: 'The same scene in XML.' }],
  '.usdz': [
    { end: '.usda', about: `${apart} Where it is text.` },
    { end: '.usdc', about: `${apart} Where it is binary.` },
  ],
};

/** What is taken apart into the homes. */
const packed: ReadonlySet<string> = new Set(['.glb', '.usdz', '.zae', '.zip']);

export function OtherForm({ path }: { path: string }) {
  const plan = usePlan();
  const { attempt, problem } = useAttempt();
  const [follow, setFollow] = useKept('follow', z.boolean(), false);
  const dot = path.lastIndexOf('.');
  const extension = path.slice(dot).toLowerCase();
  const forms = others[extension] ?? [];
  const isApart = packed.has(extension);
  if (forms.length === 0 && !isApart) return null;
  return (
    <div>
      <h2>The other form</h2>
      <ErrorNotice error={problem} />
      {forms.some((f) => !f.isWhole) && (
        <Tick checked={follow} onChange={setFollow}>
          References follow
        </Tick>
      )}
      {isApart && (
        <div style={{ marginBlock: space(2) }}>
          <Soft>Its scene, pictures and all else in it as files, each in its home here.</Soft>
          <div>
            <Button onPress={() => void attempt(() => plan({ kind: 'extract', path }))}>
              <PackageOpen size={15} /> Take apart into the homes…
            </Button>
          </div>
        </div>
      )}
      {forms.map(({ end, about, as, isWhole }) => {
        const to = `${path.slice(0, dot)}${end}`;
        return (
          <div key={end} style={{ marginBlock: space(2) }}>
            <Soft>{about}</Soft>
            <div>
              <Button
                onPress={() =>
                  void attempt(() =>
                    isWhole
                      ? plan({ kind: 'embed', path, to })
                      : plan({ kind: 'convert', path, to, follow, ...(as ? { as } : {}) }),
                  )
                }
              >
                {isWhole ? <Package size={15} /> : <FileCode2 size={15} />} Write as {to.split('/').pop()}…
              </Button>
            </div>
          </div>
        );
      })}
    </div>
  );
}
