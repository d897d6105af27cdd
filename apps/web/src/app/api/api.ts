import { HttpClient } from '@angular/common/http';
import { inject, InjectionToken } from '@angular/core';
import {
  ADDRESSES,
  addressOf,
  type AnswerOf,
  type Endpoint,
  type EndpointName,
  entityTag,
  type Endpoints,
  filledPath,
  type InputOf,
} from '@rundle/core';
import type { Observable } from 'rxjs';

type JsonEndpointName = { [Name in EndpointName]: Endpoints[Name] extends { media: string } ? never : Name }[EndpointName];

type Caller<E extends Endpoint> = (...input: keyof InputOf<E> extends never ? [] : [input: InputOf<E>]) => Observable<AnswerOf<E>>;

/** The server as the page sees it: a method for each endpoint that answers JSON. What it tells unasked is in {@link ServerEvents}. */
export type Api = { readonly [Name in JsonEndpointName]: Caller<Endpoints[Name]> };

export const Api = new InjectionToken<Api>('Api', { providedIn: 'root', factory: () => apiOver(inject(HttpClient)) });

function apiOver(http: HttpClient): Api {
  const calls = Object.entries(ADDRESSES).map(([name, { method, path, ifMatch }]) => [
    name,
    (input: Record<string, unknown> = {}) =>
      http.request(method, filledPath(path, input), {
        body: input['body'],
        responseType: 'json',
        ...(ifMatch ? { headers: { 'If-Match': entityTag(Number(input['version'])) } } : {}),
      }),
  ]);
  return Object.fromEntries(calls) as Api;
}

/** @param content as the master says, so that another file gets another address, and the browser keeps what it has */
export const thumbnailUrl = ({ id, content }: { id: string; content?: string | null }): string =>
  addressOf('getThumbnail', { masterId: id, query: { content: content ?? undefined } });
/** A master as a browser can show it, as large as it is. */
export const pictureUrl = (masterId: string, content: string | null): string =>
  addressOf('getPicture', { masterId, query: { content: content ?? undefined } });
export const outputUrl = (outputId: string): string => addressOf('getOutputFile', { outputId });
export const outputThumbnailUrl = (outputId: string): string => addressOf('getOutputThumbnail', { outputId });
export const setFileUrl = (setId: string, masters: 'with' | 'without'): string => addressOf('getSetFile', { setId, query: { masters } });
export const deliveryZipUrl = (deliveryId: string): string => addressOf('getDeliveryZip', { deliveryId });
export const messageUrl = (deliveryId: string, number: number): string =>
  addressOf('getDeliveryMessage', { deliveryId, query: { number } });
