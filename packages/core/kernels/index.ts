export { smearedBlocks } from './chroma';
export { convertRgb } from './convert';
export { wordsToBytes } from './dither';
export { backToFront, columnsOfBand } from './orient';
export {
  alongFloats,
  alongFour,
  alongFourBytes,
  alongFourToBytes,
  downFloats,
  downPairs,
  downPairsToBytes,
  downPairsToWords,
  floatsByTable,
  floatsFromBytes,
  floatsFromWords,
  pairRows,
  pairWordRows,
} from './resample';
export { blurAlong, continueRow, lumaOfRow, sharpenRow } from './sharpen';
export { alongSums, contrastRow, guidedRow, sumOfTwo, sumWithSquares } from './surroundings';
export { toneLightness, toneRgb } from './tone';
export { pixelsOfFour, turnedRow } from './turned';
