export { smearedBlocks } from './chroma';
export { convertRgb } from './convert';
export { wordsToBytes } from './dither';
export { backToFront, columnsOfBand } from './orient';
export {
  alongFloats,
  alongFour,
  alongFourBytes,
  downFloats,
  downPairs,
  downPairsToWords,
  floatsByTable,
  floatsFromBytes,
  floatsFromWords,
  pairRows,
  pairWordRows,
} from './resample';
export { blurAlong, continueRow, lumaOfRow, sharpenRow } from './sharpen';
