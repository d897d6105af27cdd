/**
 * How often a set or a picture has been changed: by that a page tells what is older than what it has, and news of a change may come after the
 * answer to the next one. Counted where rows are written, so that no statement can forget it.
 */
export const revisions = `
ALTER TABLE sets ADD COLUMN revision integer NOT NULL DEFAULT 0;
ALTER TABLE masters ADD COLUMN revision integer NOT NULL DEFAULT 0;
CREATE FUNCTION count_revision() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN NEW.revision := OLD.revision + 1; RETURN NEW; END $$;
CREATE TRIGGER count_revision BEFORE UPDATE ON sets FOR EACH ROW EXECUTE FUNCTION count_revision();
CREATE TRIGGER count_revision BEFORE UPDATE ON masters FOR EACH ROW EXECUTE FUNCTION count_revision();
`;
