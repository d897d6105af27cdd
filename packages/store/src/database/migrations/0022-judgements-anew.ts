/** From now on the key of what was judged says by which judge: what was measured before is found by none, and is measured again when it is needed. */
export const judgementsAnew = `
DELETE FROM measured_outputs;
`;
