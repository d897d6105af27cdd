/** A colour in CIELAB: L* 0-100, a* and b*. */
export type Lab = readonly [L: number, a: number, b: number];

const radians = (degrees: number): number => (degrees * Math.PI) / 180;
const hueOf = (b: number, a: number): number => (a === 0 && b === 0 ? 0 : ((Math.atan2(b, a) * 180) / Math.PI + 360) % 360);

/**
 * The colour difference CIEDE2000 with weights of 1 (ISO/CIE 11664-6:2014; symbols and order of Sharma, Wu and Dalal, 2005,
 * "The CIEDE2000 color-difference formula: implementation notes").
 * @returns about 1 for a difference that is just seen
 */
export function ciede2000([L1, a1, b1]: Lab, [L2, a2, b2]: Lab): number {
  const meanC = (Math.hypot(a1, b1) + Math.hypot(a2, b2)) / 2;
  const G = 0.5 * (1 - Math.sqrt(meanC ** 7 / (meanC ** 7 + 25 ** 7)));
  const aPrime1 = (1 + G) * a1;
  const aPrime2 = (1 + G) * a2;
  const C1 = Math.hypot(aPrime1, b1);
  const C2 = Math.hypot(aPrime2, b2);
  const h1 = hueOf(b1, aPrime1);
  const h2 = hueOf(b2, aPrime2);
  const dL = L2 - L1;
  const dC = C2 - C1;
  const turn = h2 - h1;
  const grey = C1 * C2 === 0;
  const dh = grey ? 0 : turn > 180 ? turn - 360 : turn < -180 ? turn + 360 : turn;
  const dH = 2 * Math.sqrt(C1 * C2) * Math.sin(radians(dh) / 2);
  const meanL = (L1 + L2) / 2;
  const meanCPrime = (C1 + C2) / 2;
  const sum = h1 + h2;
  const meanH = grey ? sum : Math.abs(turn) <= 180 ? sum / 2 : sum < 360 ? (sum + 360) / 2 : (sum - 360) / 2;
  const T =
    1 -
    0.17 * Math.cos(radians(meanH - 30)) +
    0.24 * Math.cos(radians(2 * meanH)) +
    0.32 * Math.cos(radians(3 * meanH + 6)) -
    0.2 * Math.cos(radians(4 * meanH - 63));
  const dTheta = 30 * Math.exp(-(((meanH - 275) / 25) ** 2));
  const RC = 2 * Math.sqrt(meanCPrime ** 7 / (meanCPrime ** 7 + 25 ** 7));
  const SL = 1 + (0.015 * (meanL - 50) ** 2) / Math.sqrt(20 + (meanL - 50) ** 2);
  const SC = 1 + 0.045 * meanCPrime;
  const SH = 1 + 0.015 * meanCPrime * T;
  const RT = -Math.sin(radians(2 * dTheta)) * RC;
  return Math.sqrt((dL / SL) ** 2 + (dC / SC) ** 2 + (dH / SH) ** 2 + RT * (dC / SC) * (dH / SH));
}
