/** How long an upload was that has been taken in, in bytes: its sender may ask again how much has come. */
export const lengthsOfArrivals = `
ALTER TABLE arrivals ADD COLUMN bytes bigint;
`;
