/** How many files of a delivery have been opened and checked, while that goes on. */
export const checkedDeliveries = `
ALTER TABLE deliveries ADD COLUMN checked integer NOT NULL DEFAULT 0;
`;
