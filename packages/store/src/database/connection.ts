import { parse } from 'pg-connection-string';
import { Sequelize } from 'sequelize';
import { defineModels, type Models } from './models';

/** The database with its tables. */
export interface Database extends Models {
  sequelize: Sequelize;
  close(): Promise<void>;
}

/** Opens a pool of connections; nothing is asked of the database yet. */
export function openDatabase(url: string): Database {
  // Sequelize would not look at what the address says of TLS.
  const { ssl } = parse(url);
  const sequelize = new Sequelize(url, {
    dialect: 'postgres',
    logging: false,
    pool: { max: 8, acquire: 20_000 },
    retry: { max: 1 },
    ...(ssl ? { dialectOptions: { ssl } } : {}),
  });
  return { sequelize, ...defineModels(sequelize), close: () => sequelize.close() };
}
