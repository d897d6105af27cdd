/** When an upload was begun: what comes in as one lot stays in its order, whichever file is through first. */
export const orderOfArrival = `
ALTER TABLE masters ADD COLUMN arrival float8;
`;
