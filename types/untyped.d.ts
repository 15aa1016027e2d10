/** Packages that ship no types; only what we use of them. */
declare module 'gltf-validator' {
  export interface ValidationReport {
    issues: {
      numErrors: number;
      numWarnings: number;
      messages: { code: string; message: string; severity: number; pointer?: string }[];
    };
  }
  export function validateBytes(
    data: Uint8Array,
    options?: {
      maxIssues?: number;
      ignoredIssues?: string[];
      externalResourceFunction?: (uri: string) => Promise<Uint8Array>;
    },
  ): Promise<ValidationReport>;
}

declare module 'draco3dgltf' {
  export function createDecoderModule(options?: { wasmBinary?: ArrayBuffer }): Promise<unknown>;
  export function createEncoderModule(options?: unknown): Promise<unknown>;
}

declare module 'draco3dgltf/draco_encoder_gltf_nodejs.js' {
  const factory: (options?: { wasmBinary?: ArrayBuffer }) => Promise<unknown>;
  export default factory;
}

declare module 'draco3dgltf/draco_decoder_gltf_nodejs.js' {
  const factory: (options?: { wasmBinary?: ArrayBuffer }) => Promise<unknown>;
  export default factory;
}
