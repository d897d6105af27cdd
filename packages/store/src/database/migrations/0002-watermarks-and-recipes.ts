/** Watermarks; and for each output what it was made of, so that it is not made again for nothing. */
export const watermarksAndRecipes = `
CREATE TABLE watermarks (
  id uuid PRIMARY KEY,
  title text NOT NULL,
  kind text NOT NULL CHECK (kind IN ('text', 'png', 'svg')),
  text text,
  colour text,
  data bytea,
  state text NOT NULL CHECK (state IN ('checking', 'ready', 'refused')),
  problem jsonb,
  created_at timestamptz NOT NULL DEFAULT now(),
  deleted_at timestamptz
);
ALTER TABLE outputs ADD COLUMN recipe char(64);
ALTER TABLE outputs ADD COLUMN measures jsonb;
`;
