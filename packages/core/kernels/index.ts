export { convertRgb } from './convert';
export { wordsToBytes } from './dither';
export {
  alongFloats,
  alongWholeRgb,
  downFloats,
  downPairs,
  floatsByTable,
  floatsFromBytes,
  floatsFromWords,
  pairRows,
  rowOfBytes,
} from './resample';
export { addDifference, lumaOfRow } from './sharpen';
