// A second workspace, "Fish Market": what is worth carrying over from it, with names that the harbour has taken, and a crane whose material has a parent.

import { markerPath } from '../src/core/files/records';
import { shippedLayouts } from '../src/core/layouts/layout';
import { writeWorkspaceFile } from '../src/core/layouts/workspace';
import { newWorkspaceFile } from '../src/core/plans/planCreate';
import type { Scene } from './gltf';

export const marketName = '2026-05 Fish Market';

const paint = `<?xml version="1.0"?>
<materialx version="1.38">
  <xi:include href="paint_base.mtlx" xmlns:xi="http://www.w3.org/2001/XInclude"/>
  <nodegraph name="crane_paint">
    <image name="coat" type="color3">
      <input name="file" type="filename" value="../textures/crane_coat.png"/>
    </image>
  </nodegraph>
</materialx>
`;
const base = `<?xml version="1.0"?>
<materialx version="1.38">
  <image name="primer" type="color3">
    <input name="file" type="filename" value="../textures/iron_base.png"/>
  </image>
</materialx>
`;
const crane = `#usda 1.0
(
    defaultPrim = "crane"
    metersPerUnit = 0.01
    upAxis = "Y"
)

def Xform "crane" (
    customData = {
        asset material = @../materials/crane_paint.mtlx@
    }
)
{
    def Xform "jib"
    {
        double3 xformOp:translate = (0, 320, 0)
        uniform token[] xformOpOrder = ["xformOp:translate"]

        def Cube "hook"
        {
            double size = 20
        }
    }
}
`;

/** Lays it with the means of the demo. `root`: of the first workspace. */
export function makeMarket(
  root: string,
  by: {
    put: (name: string, content: string | Buffer) => void;
    picture: (name: string, colour: [number, number, number], band?: number, grain?: number) => void;
    scene: (name: string, s: Scene) => void;
    read: (name: string) => Buffer;
    folder: (name: string) => void;
  },
): void {
  const market = `bench/work/${marketName}`;
  const layout = shippedLayouts.find((l) => l.id === 'game-environment')!;
  const file = newWorkspaceFile({
    name: 'Fish Market',
    layout,
    without: [],
    created: '2026-05-04T08:00:00.000Z',
  });
  // It was measured in centimetres, with Z up.
  file.units = {
    unit: 'cm',
    display: { form: 'decimal', digits: 1 },
    upAxis: 'Z',
    grid: { spacing: 50, heavyEvery: 10, extent: 2000 },
  };
  for (const folder of file.folders) by.folder(`${market}/${folder}`);
  by.put(`${market}/${markerPath}`, writeWorkspaceFile(file));
  const t = `${market}/textures`;
  // The same picture as in the harbour, another of a name it has, and one of a name that differs by case alone.
  by.put(`${t}/crate_wood.png`, by.read(`${root}/textures/crate_wood.png`));
  by.picture(`${t}/iron_base.png`, [96, 52, 40], 2, 0.6);
  by.picture(`${t}/Sail_Base.png`, [120, 150, 170], 6, 0.2);
  by.picture(`${t}/crane_coat.png`, [178, 142, 44], 3, 0.3);
  by.put(`${market}/materials/paint_base.mtlx`, base);
  by.put(`${market}/materials/crane_paint.mtlx`, paint);
  by.put(`${market}/models/crane.usda`, crane);
  by.scene(`${market}/scenes/market_v002.gltf`, {
    parts: [
      { name: 'stall', material: 'wood', centre: [0, 0.6, 0], size: [2, 1.2, 1] },
      { name: 'awning', material: 'cloth', centre: [0, 2.2, 0], size: [2.4, 0.1, 1.4] },
      { name: 'bracket', material: 'iron', centre: [0, 0.4, 0], size: [0.1, 0.8, 0.1] },
      { name: 'lantern glass', material: 'glass', centre: [0, 0, 0], size: [0.3, 0.4, 0.3] },
    ],
    groups: [{ name: 'lamp', at: [1.3, 1.8, 0.6], holds: ['bracket', 'lantern glass'] }],
    materials: {
      wood: { baseColor: '../textures/crate_wood.png' },
      cloth: { baseColor: '../textures/Sail_Base.png' },
      iron: { baseColor: '../textures/iron_base.png' },
      glass: {},
    },
  });
}
