'use client';
// The grid and the box as files of several formats, to be opened in the artist's own program.

import { Box } from '../kit/icons';
import { count } from '@/core/text/figures';
import { yardstickFormats, type YardstickFormat } from '@/core/units/yardstickScene';
import { useAttempt } from '../kit/attempt';
import { Button, Chip } from '../kit/buttons';
import { Grow, Row, Sheet, Soft, Stack } from '../kit/layout';
import { ErrorNotice } from '../kit/notices';
import { usePlan } from '../kit/work';
import { useTyped } from '../kit/kept';

const formatNames: Record<YardstickFormat, string> = {
  gltf: 'glTF',
  glb: 'GLB',
  obj: 'OBJ',
  usda: 'USD text',
  usdz: 'USD package',
  dae: 'COLLADA',
  x3d: 'X3D',
  x3dv: 'VRML',
  ply: 'PLY',
  '3mf': '3MF',
};
/** `side`: the box's, in words; `isSaved`: the units on the page are those of the workspace. */
export function Yardstick({ side, isSaved }: { side: string; isSaved: boolean }) {
  const plan = usePlan();
  const { attempt, problem } = useAttempt();
  const [formats, setFormats] = useTyped<YardstickFormat[]>('grid and box', ['glb', 'usda']);
  const set = (f: YardstickFormat, on: boolean) =>
    setFormats(yardstickFormats.filter((x) => (x === f ? on : formats.includes(x))));
  return (
    <Sheet aria-label="Grid and box as files">
      <Stack>
        <h2>Grid and box as files</h2>
        <Soft>
          Opened in your program, the box is {side} to a side: if it is not, the program’s unit is not the
          workspace’s.
        </Soft>
        <Row $wrap $gap={1} role="group" aria-label="Formats">
          {yardstickFormats.map((f) => (
            <Chip key={f} isSelected={formats.includes(f)} onChange={(on) => set(f, on)}>
              {formatNames[f]}
            </Chip>
          ))}
        </Row>
        <Row>
          <Grow />
          {!isSaved && <Soft>Made with the units as they were saved.</Soft>}
          <Button
            isDisabled={formats.length === 0}
            onPress={() => void attempt(() => plan({ kind: 'yardstick', formats }))}
          >
            <Box size={15} /> Make {count(formats.length, 'file')}…
          </Button>
        </Row>
        <ErrorNotice error={problem} />
      </Stack>
    </Sheet>
  );
}
