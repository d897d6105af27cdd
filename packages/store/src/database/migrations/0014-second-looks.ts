/** What people want to look at again before it goes out: pictures as a preset makes them, each with a note. */
export const secondLooks = `
ALTER TABLE sets ADD COLUMN second_looks jsonb NOT NULL DEFAULT '[]';
`;
