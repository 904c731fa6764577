declare module 'gltf-validator' {
  /** What the validator says of a glTF file. */
  export function validateBytes(bytes: Uint8Array): Promise<{ issues: { numErrors: number; numWarnings: number } }>;
}
