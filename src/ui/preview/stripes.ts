// How a missing texture is shown on a model: broad diagonal stripes of amber and ink, in the space of the model, so that they are seen whatever
// texture coordinates it has. The file's name is laid over it by the stage.

import * as THREE from 'three';

/** Stripes of which about six lie across an object as large as `span` in its own units. */
export function stripedMaterial(span: number, amber: string, ink: string): THREE.MeshStandardMaterial {
  const material = new THREE.MeshStandardMaterial({ roughness: 0.9, metalness: 0, side: THREE.DoubleSide });
  const uniforms = {
    stripeAmber: { value: new THREE.Color(amber) },
    stripeInk: { value: new THREE.Color(ink) },
    stripeScale: { value: 6 / Math.max(1e-9, span) },
  };
  material.onBeforeCompile = (shader) => {
    Object.assign(shader.uniforms, uniforms);
    shader.vertexShader = shader.vertexShader
      .replace('#include <common>', '#include <common>\nvarying vec3 stripeAt;')
      .replace(
        '#include <worldpos_vertex>',
        '#include <worldpos_vertex>\nstripeAt = (modelMatrix * vec4(transformed, 1.0)).xyz;',
      );
    shader.fragmentShader = shader.fragmentShader
      .replace(
        '#include <common>',
        '#include <common>\nvarying vec3 stripeAt;\nuniform vec3 stripeAmber;\nuniform vec3 stripeInk;\nuniform float stripeScale;',
      )
      .replace(
        '#include <map_fragment>',
        'diffuseColor.rgb = mix(stripeInk, stripeAmber, step(0.5, fract((stripeAt.x + stripeAt.y + stripeAt.z) * stripeScale)));',
      );
  };
  material.customProgramCacheKey = () => 'stripes';
  return material;
}
