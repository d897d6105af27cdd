import { ADDRESSES } from './addresses';
import { type AddressOf, filledPath } from './endpoint';
import type { EndpointName, Endpoints } from './endpoints';

/**
 * The address of an endpoint, from the root of the server.
 * @example addressOf('listMasters', { setId, query: { from: 500 } }) // '/api/sets/…/masters?from=500'
 */
export const addressOf = <Name extends EndpointName>(name: Name, input: AddressOf<Endpoints[Name]>): string =>
  filledPath(ADDRESSES[name].path, input);

/** Where files are uploaded to, by the tus protocol 1.0.0 (tus.io). */
export const UPLOADS_PATH = '/api/uploads';
