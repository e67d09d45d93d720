// Materials of a MaterialX document on balls: values of the four surfaces, pictures through graphs, prefixes, included documents.

import { beforeAll, expect, test } from '@jest/globals';
import * as THREE from 'three';
import { utf8 } from '@/core/text/bytes';
import { Sources } from '../sources';
import { readMaterialX } from './materialX';
import type { Given } from './reader';

beforeAll(() => {
  // What three.js makes a picture of; nothing is loaded here.
  const picture = () => ({
    addEventListener: () => undefined,
    removeEventListener: () => undefined,
    src: '',
  });
  (globalThis as { document?: unknown }).document ??= { createElementNS: picture };
});

/** The balls, each with its material; addresses that were asked for. */
async function balls(body: string, others: Record<string, string> = {}) {
  const asked: string[] = [];
  const manager = new THREE.LoadingManager();
  manager.setURLModifier((url) => {
    asked.push(url);
    return 'data:,';
  });
  const sources = new Sources('w', {
    scene: 'models/a.mtlx',
    format: 'mtlx',
    size: 1,
    files: ['models/a.mtlx', ...Object.keys(others)],
    references: [],
    units: { metres: null, upAxis: null, by: 'nobody' },
    grid: { unit: 'm', display: 'm', grid: { spacing: 1, heavyEvery: 5, extent: 10 } } as never,
  });
  const text = (inner: string) =>
    new Uint8Array(utf8(`<?xml version="1.0"?><materialx version="1.39">${inner}</materialx>`));
  const given: Given = {
    sources,
    bytes: text(body),
    format: 'mtlx',
    manager,
    managerOf: () => manager,
    fetch: async (address) => text(others[new URL(address, 'http://x/').searchParams.get('scene')!]!),
    notes: [],
  };
  const { object } = await readMaterialX(given);
  return {
    asked,
    notes: given.notes,
    balls: object.children.map(
      (c) => [c.name, (c as THREE.Mesh).material as THREE.MeshStandardMaterial] as const,
    ),
  };
}
const material = (name: string) =>
  `<surfacematerial name="${name}" type="material"><input name="surfaceshader" type="surfaceshader" nodename="${name}_s"/></surfacematerial>`;

test.each([
  ['standard_surface', 'base_color', 'metalness', 'specular_roughness', [0.8, 0.8, 0.8, 0, 0.2]],
  ['open_pbr_surface', 'base_color', 'base_metalness', 'specular_roughness', [0.8, 0.8, 0.8, 0, 0.3]],
  ['gltf_pbr', 'base_color', 'metallic', 'roughness', [1, 1, 1, 1, 1]],
  ['UsdPreviewSurface', 'diffuseColor', 'metallic', 'roughness', [0.18, 0.18, 0.18, 0, 0.5]],
])(
  '%s: what it says, and what holds where it says nothing',
  async (surface, colour, metal, rough, otherwise) => {
    const seen = ({ color, metalness, roughness }: THREE.MeshStandardMaterial) => [
      ...color.toArray(),
      metalness,
      roughness,
    ];
    const said = await balls(
      `<${surface} name="a_s" type="surfaceshader"><input name="${colour}" type="color3" value="0.1, 0.2, 0.3"/><input name="${metal}" type="float" value="0.5"/><input name="${rough}" type="float" value="0.75"/></${surface}>${material('a')}
     <${surface} name="b_s" type="surfaceshader"/>${material('b')}`,
    );
    expect(said.balls.map(([name, m]) => [name, ...seen(m)])).toEqual([
      ['a', 0.1, 0.2, 0.3, 0.5, 0.75],
      ['b', ...otherwise],
    ]);
  },
);

test('a picture behind a graph, an interface and a node that changes it; the nearest prefix alone', async () => {
  const { asked, balls: shown } = await balls(`
    <nodegraph name="g" fileprefix="wood/">
      <input name="which" type="filename" value="unused.png"/>
      <image name="i" type="color3"><input name="file" type="filename" fileprefix="../textures/" value="oak.png"/></image>
      <image name="n" type="vector3"><input name="file" type="filename" value="oak_n.png"/></image>
      <multiply name="m" type="color3"><input name="in1" type="color3" nodename="i"/><input name="in2" type="float" value="0.5"/></multiply>
      <normalmap name="nm" type="vector3"><input name="in" type="vector3" nodename="n"/></normalmap>
      <output name="o" type="color3" nodename="m"/><output name="on" type="vector3" nodename="nm"/>
    </nodegraph>
    <standard_surface name="a_s" type="surfaceshader"><input name="base_color" type="color3" nodegraph="g" output="o"/><input name="normal" type="vector3" nodegraph="g" output="on"/></standard_surface>${material('a')}`);
  expect(asked.sort()).toEqual(['../textures/oak.png', 'wood/oak_n.png']);
  const [, { map, normalMap, color }] = shown[0]!;
  expect([map !== null, normalMap !== null, color.getHex()]).toEqual([true, true, 0xffffff]);
});

test('a surface in an included document; where there is no material, its pictures', async () => {
  const shader =
    '<gltf_pbr name="a_s" type="surfaceshader"><input name="base_color" type="color3" value="1,0,0"/></gltf_pbr>';
  const { balls: shown } = await balls(material('a'), { 'models/base.mtlx': shader });
  expect(shown[0]![1].color.getHex()).toBe(0xff0000);
  const pictures = await balls(
    '<image name="boards" type="color3"><input name="file" type="filename" value="a.png"/></image><nodegraph name="g"><image name="b" type="color3"><input name="file" type="filename" value="b.png"/></image></nodegraph>',
  );
  expect([pictures.balls.map(([n]) => n), pictures.asked]).toEqual([
    ['boards', 'b'],
    ['a.png', 'b.png'],
  ]);
});

test('circles end, what leads nowhere is plain, of very many the first are shown', async () => {
  const circle = await balls(
    `<add name="x" type="color3"><input name="in1" type="color3" nodename="y"/></add><add name="y" type="color3"><input name="in1" type="color3" nodename="x"/></add>
     <gltf_pbr name="a_s" type="surfaceshader"><input name="base_color" type="color3" nodename="x"/></gltf_pbr>${material('a')}${material('lost')}`,
  );
  expect(circle.balls.map(([n]) => n)).toEqual(['a', 'lost']);
  const many = await balls([...Array(70).keys()].map((n) => material(`m${n}`)).join(''));
  expect([many.balls.length, many.notes]).toEqual([60, ['The first 60 of 70 are shown.']]);
  await expect(balls('').then(() => readMaterialX({ bytes: utf8('<x/>') } as Given))).rejects.toThrow();
});
