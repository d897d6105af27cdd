import type { AnswerOf, CallOf, Endpoint, EndpointName, Endpoints } from '@rundle/core';
import type { Request, Response } from 'express';

/** An answer that is JSON already, in UTF-8. */
export class MadeJson {
  constructor(readonly bytes: Uint8Array) {}
}

/** What a handler gets beside what was sent: for answers that are not JSON it writes the response itself. */
export interface Exchange {
  readonly request: Request;
  readonly response: Response;
}

/**
 * Answers one endpoint.
 * @throws HttpProblem for whatever the caller can do something about
 */
export type Handler<E extends Endpoint> = (call: CallOf<E> & Exchange) => Promise<AnswerOf<E> | MadeJson>;

/** A handler for each endpoint of the interface; each feature has some of them. */
export type Handlers = { readonly [Name in EndpointName]: Handler<Endpoints[Name]> };
