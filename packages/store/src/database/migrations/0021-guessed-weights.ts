/** What an output was expected to weigh by its picture alone: what came of it says how far such guesses are off. */
export const guessedWeights = `
ALTER TABLE outputs ADD COLUMN guessed_bytes integer;
`;
