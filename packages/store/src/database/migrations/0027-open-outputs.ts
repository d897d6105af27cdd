/** What is left to make of a run is found without going through all that has been made of it: that is asked after each picture. */
export const openOutputs = `
CREATE INDEX outputs_open ON outputs (run_id, master_id) WHERE state IN ('planned', 'running');
`;
