/** What a photographer decides about pictures and sets; a bin for pictures; what receivers demand. */
export const marksAndHouseRules = `
ALTER TABLE masters ADD COLUMN stars integer NOT NULL DEFAULT 0 CHECK (stars BETWEEN 0 AND 5);
ALTER TABLE masters ADD COLUMN choice text CHECK (choice IN ('pick', 'out'));
ALTER TABLE masters ADD COLUMN tags jsonb NOT NULL DEFAULT '[]';
ALTER TABLE masters ADD COLUMN treatment jsonb NOT NULL DEFAULT '{}';
ALTER TABLE masters ADD COLUMN removed_at timestamptz;
UPDATE masters SET stars = coalesce((facts->>'rating')::int, 0);
CREATE TABLE house_rules (
  id uuid PRIMARY KEY,
  body jsonb NOT NULL,
  created_at timestamptz NOT NULL DEFAULT now(),
  deleted_at timestamptz
);
ALTER TABLE sets ADD COLUMN filter jsonb NOT NULL DEFAULT '{}';
ALTER TABLE sets ADD COLUMN preset_ids jsonb NOT NULL DEFAULT '[]';
ALTER TABLE sets ADD COLUMN house_rules_id uuid REFERENCES house_rules;
`;
