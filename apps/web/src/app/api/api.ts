import { HttpClient } from '@angular/common/http';
import { inject, InjectionToken } from '@angular/core';
import {
  addressOf,
  type AnswerOf,
  type Endpoint,
  type EndpointName,
  ENDPOINTS,
  entityTag,
  type Endpoints,
  type InputOf,
} from '@rundle/core';
import type { Observable } from 'rxjs';

type JsonEndpointName = { [Name in EndpointName]: Endpoints[Name] extends { media: string } ? never : Name }[EndpointName];

type Caller<E extends Endpoint> = (...input: keyof InputOf<E> extends never ? [] : [input: InputOf<E>]) => Observable<AnswerOf<E>>;

/** The server as the page sees it: a method for each endpoint that answers JSON. What it tells unasked is in {@link ServerEvents}. */
export type Api = { readonly [Name in JsonEndpointName]: Caller<Endpoints[Name]> };

export const Api = new InjectionToken<Api>('Api', { providedIn: 'root', factory: () => apiOver(inject(HttpClient)) });

function apiOver(http: HttpClient): Api {
  const calls = Object.entries<Endpoint>(ENDPOINTS).map(([name, endpoint]) => [
    name,
    (input: Record<string, unknown> = {}) =>
      http.request(endpoint.method, addressOf(endpoint, input as never), {
        body: input['body'],
        responseType: 'json',
        ...(endpoint.ifMatch ? { headers: { 'If-Match': entityTag(Number(input['version'])) } } : {}),
      }),
  ]);
  return Object.fromEntries(calls) as Api;
}

/** @param content as the master says, so that another file gets another address, and the browser keeps what it has */
export const thumbnailUrl = ({ id, content }: { id: string; content?: string | null }): string =>
  addressOf(ENDPOINTS.getThumbnail, { masterId: id, query: { content: content ?? undefined } });
/** A master as a browser can show it, as large as it is. */
export const pictureUrl = (masterId: string, content: string | null): string =>
  addressOf(ENDPOINTS.getPicture, { masterId, query: { content: content ?? undefined } });
export const outputUrl = (outputId: string): string => addressOf(ENDPOINTS.getOutputFile, { outputId });
export const outputThumbnailUrl = (outputId: string): string => addressOf(ENDPOINTS.getOutputThumbnail, { outputId });
export const setFileUrl = (setId: string, masters: 'with' | 'without'): string =>
  addressOf(ENDPOINTS.getSetFile, { setId, query: { masters } });
export const deliveryZipUrl = (deliveryId: string): string => addressOf(ENDPOINTS.getDeliveryZip, { deliveryId });
export const messageUrl = (deliveryId: string, number: number): string =>
  addressOf(ENDPOINTS.getDeliveryMessage, { deliveryId, query: { number } });
