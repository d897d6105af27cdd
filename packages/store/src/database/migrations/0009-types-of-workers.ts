/** Some file types are written by programs that not every machine has: each worker tells which of them it can write. */
export const typesOfWorkers = `
ALTER TABLE workers ADD COLUMN writes text[] NOT NULL DEFAULT '{}';
`;
