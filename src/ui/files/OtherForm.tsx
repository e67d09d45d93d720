'use client';
// A scene in another form of its format, beside it: text, which can be read and repaired, or one file, which is easy to send.

import { FileCode2 } from 'lucide-react';
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
}

const together = 'One file with all that it needs from its folder.';
const apart = 'The scene beside it, and its files as they lay around it.';
const others: Record<string, readonly Form[]> = {
  '.gltf': [{ end: '.glb', about: 'One file with its buffer in it; pictures stay beside it.' }],
  '.glb': [{ end: '.gltf', about: 'Text that can be read and repaired, with its buffer beside it.' }],
  '.ply': [
    { end: '_text.ply', about: 'Text that can be read; every number stays the number it is.', as: 'ascii' },
    { end: '_binary.ply', about: 'Binary, little-endian: smaller, and read faster.', as: 'little' },
  ],
  '.dae': [{ end: '.zae', about: together }],
  '.zae': [{ end: '.dae', about: apart }],
  '.usda': [{ end: '.usdz', about: together }],
  '.usdc': [
    { end: '.usdz', about: together },
    { end: '.usda', about: 'Text that can be read and repaired; every number stays the number it is.' },
  ],
  '.x3d': [{ end: '.x3dv', about: 'Its classic form, in braces: shorter, and easy to read.' }],
  '.x3dv': [{ end: '.x3d', about: 'The same scene in XML.' }],
  '.usdz': [
    { end: '.usda', about: `${apart} Where it is text.` },
    { end: '.usdc', about: `${apart} Where it is binary.` },
  ],
};

export function OtherForm({ path }: { path: string }) {
  const plan = usePlan();
  const { attempt, problem } = useAttempt();
  const [follow, setFollow] = useKept('follow', z.boolean(), false);
  const dot = path.lastIndexOf('.');
  const forms = others[path.slice(dot).toLowerCase()];
  if (!forms) return null;
  return (
    <div>
      <h2>The other form</h2>
      <ErrorNotice error={problem} />
      <Tick checked={follow} onChange={setFollow}>
        References follow
      </Tick>
      {forms.map(({ end, about, as }) => {
        const to = `${path.slice(0, dot)}${end}`;
        return (
          <div key={end} style={{ marginBlock: space(2) }}>
            <Soft>{about}</Soft>
            <div>
              <Button
                onPress={() =>
                  void attempt(() => plan({ kind: 'convert', path, to, follow, ...(as ? { as } : {}) }))
                }
              >
                <FileCode2 size={15} /> Write as {to.split('/').pop()}…
              </Button>
            </div>
          </div>
        );
      })}
    </div>
  );
}
