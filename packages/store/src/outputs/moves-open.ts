/** Whether files of a run `r` have to be in their places before anything is made. */
export const MOVES_FIRST = `EXISTS (SELECT FROM moves f WHERE f.run_id = r.id AND f.stage = 'first' AND f.state <> 'settled')`;

/** Whether files of a run `r` have not come to their places yet. */
export const MOVES_OPEN = `EXISTS (SELECT FROM moves f WHERE f.run_id = r.id AND f.state <> 'settled')`;
