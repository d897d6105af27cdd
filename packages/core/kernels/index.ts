export { convertRgb } from './convert';
export { wordsToBytes } from './dither';
export {
  alongFloats,
  alongFour,
  alongFourBytes,
  downFloats,
  downPairs,
  floatsByTable,
  floatsFromBytes,
  floatsFromWords,
  pairRows,
  pairWordRows,
} from './resample';
export { addDifference, continueRow, lumaOfRow } from './sharpen';
