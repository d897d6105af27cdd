/** What is used of it: Little CMS 2.16 compiled to WebAssembly. Handles are numbers, 0 is none. */
export interface Lcms {
  HEAPU8: Uint8Array;
  _malloc(bytes: number): number;
  _free(pointer: number): void;
  ccall(name: string, returns: 'number' | undefined, types: 'number'[], values: number[]): number;
  cmsCreateLab4Profile(white: null): number;
  cmsCloseProfile(profile: number): void;
  cmsCreateTransform(from: number, fromFormat: number, to: number, toFormat: number, intent: number, flags: number): number;
  cmsDeleteTransform(transform: number): void;
  cmsDoTransform(transform: number, pixels: Uint16Array, count: number): Uint16Array;
}
export function instantiate(): Promise<Lcms>;
export const TYPE_RGB_16: number;
export const TYPE_CMYK_16: number;
export const TYPE_GRAY_16: number;
export const TYPE_Lab_16: number;
export const cmsFLAGS_BLACKPOINTCOMPENSATION: number;
export const cmsFLAGS_HIGHRESPRECALC: number;
export const cmsFLAGS_NOOPTIMIZE: number;
