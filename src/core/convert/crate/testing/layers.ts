// Layers whose crate files are made here, one for each thing that text says in a way of its own.

import { crateOf, type CrateSpecOf, type CrateValue } from './crateOf';

const prim = (path: string, fields: Record<string, CrateValue> = {}): CrateSpecOf => ({
  path,
  type: 6,
  fields: { specifier: { enum: 0, kind: 42 }, typeName: { token: 'Xform' }, ...fields },
});
const root = (children: readonly string[], fields: Record<string, CrateValue> = {}): CrateSpecOf => ({
  path: '/',
  type: 7,
  fields: { ...fields, primChildren: { tokens: children } },
});

/** By name: the crate file. */
export const layers: Record<string, Uint8Array> = {
  arcs: crateOf([
    root(['Boat', '_class', 'Over'], {
      subLayers: { strings: ['./look.usda', 'b.usda', 'c@d.usda'] },
      subLayerOffsets: {
        offsets: [
          [10, 1],
          [0, 2],
          [0, 1],
        ],
      },
      primOrder: { tokens: ['Over', 'Boat'] },
      comment: { string: 'made by hand' },
      customLayerData: { dictionary: {} },
    }),
    prim('/Boat', {
      references: {
        references: {
          prepended: [
            { file: '../rig.usd', prim: '/Rig', data: { why: { string: 'a "reason"' } } },
            { file: 'hull.usd' },
            { prim: '/Local' },
            { file: 'late.usd', offset: 2, scale: 0.5 },
          ],
          deleted: [{ file: 'old.usd' }],
        },
      },
      payload: { payloads: { explicit: [{ file: 'heavy.usdc', prim: '/Heavy', offset: 3 }] } },
      inheritPaths: { pathOp: { prepended: ['/_class'] } },
      specializes: { pathOp: { explicit: ['/_class', '/Over'] } },
      apiSchemas: { tokenOp: { prepended: ['A'], deleted: ['B', 'C'], appended: ['D'] } },
      propertyOrder: { tokens: ['b', 'a'] },
      permission: { enum: 1, kind: 43 },
      clipSets: { stringOp: { explicit: ['one', 'two'] } },
      clips: {
        dictionary: {
          default: {
            dictionary: {
              templateAssetPath: { string: './clip.###.usd' },
              times: { doubles: [0.1, 2] },
              manifestAssetPath: { asset: './m.usda' },
            },
          },
        },
      },
    }),
    prim('/_class', { specifier: { enum: 2, kind: 42 } }),
    prim('/Over', { specifier: { enum: 1, kind: 42 }, typeName: { token: '' } }),
  ]),
  single: crateOf([
    root(['Boat', 'None', 'Empty']),
    prim('/Boat', { payload: { payload: { file: 'p.usd', prim: '/P' } } }),
    prim('/None', { references: { references: { explicit: [] } }, payload: { payloads: { explicit: [] } } }),
    prim('/Empty', { inheritPaths: { pathOp: { explicit: [] } }, apiSchemas: { tokenOp: { explicit: [] } } }),
  ]),
  variants: crateOf([
    root(['Boat']),
    prim('/Boat', {
      variantSelection: { variants: { look: 'wet', size: '' } },
      variantSetNames: { stringOp: { prepended: ['look', 'size'] } },
      variantSetChildren: { tokens: ['look', 'size'] },
    }),
    { path: '/Boat{look=}', type: 11, fields: { variantChildren: { tokens: ['wet', 'dry'] } } },
    {
      path: '/Boat{look=wet}',
      type: 10,
      fields: {
        references: { references: { prepended: [{ file: 'wet.usd' }] } },
        primChildren: { tokens: ['Hull'] },
        properties: { tokens: ['shine'] },
      },
    },
    {
      path: '/Boat{look=wet}.shine',
      type: 1,
      fields: { typeName: { token: 'double' }, default: { value: { double: 0.1 } } },
    },
    prim('/Boat{look=wet}Hull', {
      variantSetNames: { stringOp: { explicit: ['inner'] } },
      variantSetChildren: { tokens: ['inner'] },
    }),
    { path: '/Boat{look=wet}Hull{inner=}', type: 11, fields: { variantChildren: { tokens: ['a'] } } },
    { path: '/Boat{look=wet}Hull{inner=a}', type: 10, fields: { primChildren: { tokens: ['Deep'] } } },
    prim('/Boat{look=wet}Hull{inner=a}Deep'),
    { path: '/Boat{look=dry}', type: 10, fields: {} },
    { path: '/Boat{size=}', type: 11, fields: {} },
  ]),
  properties: crateOf([
    root(['A']),
    prim('/A', { properties: { tokens: ['inner', 'outer', 'target', 'vary', 'several', 'ns:deep'] } }),
    {
      path: '/A.inner',
      type: 1,
      fields: {
        typeName: { token: 'float' },
        connectionPaths: { pathOp: { prepended: ['/A.outer'], deleted: ['/A.old', '/A.older'] } },
      },
    },
    {
      path: '/A.outer',
      type: 1,
      fields: {
        typeName: { token: 'string' },
        custom: { bool: true },
        variability: { enum: 1, kind: 44 },
        default: { string: new Uint8Array([0x61, 0x22, 0xff, 0x0a, 0x5c, 0x07]) },
        connectionPaths: { pathOp: { explicit: [] } },
      },
    },
    {
      path: '/A.target',
      type: 8,
      fields: { targetPaths: { pathOp: { prepended: ['/A.inner'], appended: ['/A'] } } },
    },
    {
      path: '/A.vary',
      type: 8,
      fields: { variability: { enum: 0, kind: 44 }, targetPaths: { pathOp: { explicit: [] } } },
    },
    { path: '/A.several', type: 8, fields: { variability: { enum: 1, kind: 44 }, custom: { bool: true } } },
    {
      path: '/A.ns:deep',
      type: 1,
      fields: { typeName: { token: 'asset' }, default: { asset: 'a b@@@c.png' } },
    },
  ]),
  unknown: crateOf([
    root(['A'], {
      studioNote: { unregistered: { string: '"kept as it stood"' } },
      studioData: { unregistered: { dictionary: { a: { string: 'b' } } } },
    }),
    prim('/A', { studioOdd: { unregistered: { string: '[1, 2]' } } }),
  ]),
};
