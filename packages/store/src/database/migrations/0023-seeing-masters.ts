/** What draws the eye in pictures is measured where a preset asks for a ratio: a kind of work of its own. */
export const seeingMasters = `
ALTER TABLE work DROP CONSTRAINT work_name_check;
ALTER TABLE work ADD CONSTRAINT work_name_check CHECK (name IN ('read-master', 'check-watermark', 'render-master', 'weigh-master', 'see-master', 'move-outputs'));
`;
