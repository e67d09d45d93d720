// COLLADA, PLY, 3MF.

import * as THREE from 'three';
import { keyOfRow } from '@/core/references/key';
import { bufferOf, NotShown, textIn, type Given, type Shown } from './reader';

export async function readCollada({ bytes, manager }: Given): Promise<Shown> {
  const { ColladaLoader } = await import('three/examples/jsm/loaders/ColladaLoader.js');
  const collada = new ColladaLoader(manager).parse(textIn(bytes), '');
  if (!collada) throw new NotShown('This COLLADA file cannot be read as a scene.');
  return { object: collada.scene };
}

export async function readPly({ sources, bytes, manager }: Given): Promise<Shown> {
  const { PLYLoader } = await import('three/examples/jsm/loaders/PLYLoader.js');
  const geometry = new PLYLoader(manager).parse(bufferOf(bytes));
  if (geometry.index && !geometry.hasAttribute('normal')) geometry.computeVertexNormals();
  const painted = sources.view.references.find((r) => r.kind === 'texture');
  const vertexColors = geometry.hasAttribute('color');
  if (!geometry.index) {
    const look = new THREE.PointsMaterial({ size: 2, sizeAttenuation: false, vertexColors });
    return { object: new THREE.Points(geometry, look) };
  }
  const material = new THREE.MeshStandardMaterial({
    vertexColors,
    ...(painted && geometry.hasAttribute('uv')
      ? { map: new THREE.TextureLoader(manager).load(sources.address(painted)) }
      : {}),
  });
  return {
    object: new THREE.Mesh(geometry, material),
    ...(painted ? { keysOf: new Map([[material, [keyOfRow(painted)]]]) } : {}),
  };
}

export async function read3mf({ bytes, manager }: Given): Promise<Shown> {
  const { ThreeMFLoader } = await import('three/examples/jsm/loaders/3MFLoader.js');
  const object = new ThreeMFLoader(manager).parse(bufferOf(bytes));
  object.rotation.x = -Math.PI / 2;
  return { object, isUnscaled: true };
}
