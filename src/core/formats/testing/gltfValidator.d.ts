// The reference validator ships no types; these are the parts the tests use.
declare module 'gltf-validator' {
  export function validateBytes(
    data: Uint8Array,
    options?: { uri?: string; externalResourceFunction?: (uri: string) => Promise<Uint8Array> },
  ): Promise<{ issues: { numErrors: number } }>;
}
