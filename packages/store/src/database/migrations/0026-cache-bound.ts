/** What caches may take together, MB; no row: as usual. */
export const cacheBound = `
CREATE TABLE cache_bound (id integer PRIMARY KEY CHECK (id = 1), megabytes integer NOT NULL);
`;
