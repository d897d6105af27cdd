import * as z from 'zod';
import { Delivery, DeliveryDetail, DeliveryPreview, NewDelivery, ResumeWish } from '../../deliver/delivery';
import { NewReceiver, ReceiverTest, ReceiverTestWish, STAND_INS, StandInsView, StoredReceiver } from '../../deliver/receiver';
import type { Endpoint } from '../endpoint';
import { HandOverView, RemovedOutputs } from '../runs';
import { SheetWish } from '../sheets';

/** Calls that show what came out, and deliver it. */
export const HAND_OVER_ENDPOINTS = {
  listOutputs: {
    method: 'get',
    path: '/api/sets/{setId}/outputs',
    summary: 'What can be handed over',
    answer: HandOverView,
    errors: ['not-found'],
  },
  getRemovedOutputs: {
    method: 'get',
    path: '/api/sets/{setId}/removed-outputs',
    summary: 'What still lies there of pictures that were taken out of the set, as it was made',
    answer: RemovedOutputs,
    errors: ['not-found'],
  },
  takeAwayRemovedOutputs: {
    method: 'post',
    path: '/api/sets/{setId}/removed-outputs/take-away',
    summary: 'Take these files away; what somebody has changed since stays',
    answer: RemovedOutputs,
    errors: ['not-found', 'run-under-way'],
  },
  getZip: {
    method: 'get',
    path: '/api/sets/{setId}/outputs.zip',
    summary: 'All outputs as they stand, or a part of the ZIP; a delivery checks them first',
    media: 'application/zip',
    errors: ['not-found', 'nothing-there', 'output-missing'],
  },
  makeSheet: {
    method: 'post',
    path: '/api/sets/{setId}/sheet',
    summary: 'A PDF of pictures in rows, for paper; it comes page by page as it is made',
    body: SheetWish,
    media: 'application/pdf',
    errors: ['not-found', 'nothing-there'],
  },
  getOutputFile: {
    method: 'get',
    path: '/api/outputs/{outputId}/file',
    summary: 'One output',
    media: 'image/*',
    errors: ['not-found'],
  },
  getOutputThumbnail: {
    method: 'get',
    path: '/api/outputs/{outputId}/thumbnail',
    summary: 'One output, made small as browsers show it',
    media: 'image/*',
    errors: ['not-found', 'no-sample'],
  },

  // Deliveries
  listDeliveries: {
    method: 'get',
    path: '/api/sets/{setId}/deliveries',
    summary: 'The deliveries of a set, newest first',
    answer: z.array(Delivery),
    errors: ['not-found'],
  },
  previewDelivery: {
    method: 'post',
    path: '/api/sets/{setId}/deliveries/preview',
    summary: 'What a delivery would send; sends nothing',
    body: NewDelivery,
    answer: DeliveryPreview,
    errors: ['not-found'],
  },
  startDelivery: {
    method: 'post',
    path: '/api/sets/{setId}/deliveries',
    summary: 'Starts a delivery of what stands there now; its files are checked first',
    body: NewDelivery,
    answer: Delivery,
    status: 201,
    errors: ['not-found', 'nothing-there', 'no-place', 'no-delivery'],
  },
  getDelivery: {
    method: 'get',
    path: '/api/deliveries/{deliveryId}',
    summary: 'A delivery with its files and its log',
    answer: DeliveryDetail,
    errors: ['not-found'],
  },
  decideDelivery: {
    method: 'post',
    path: '/api/deliveries/{deliveryId}/decide',
    summary: 'Goes on with a delivery that is held: with all files that are whole, or without those that break a rule',
    body: z.strictObject({ send: z.enum(['all', 'without']) }),
    answer: Delivery,
    errors: ['not-found', 'delivery-over'],
  },
  resumeDelivery: {
    method: 'post',
    path: '/api/deliveries/{deliveryId}/resume',
    summary:
      'Goes on with a delivery that failed or was cancelled, with the files of its list or with those that have been made anew since; what has been sent is not sent again',
    body: ResumeWish,
    answer: Delivery,
    errors: ['not-found', 'delivery-over', 'nothing-there'],
  },
  cancelDelivery: {
    method: 'post',
    path: '/api/deliveries/{deliveryId}/cancel',
    summary: 'Ends a delivery; what has been sent stays where it is',
    answer: Delivery,
    errors: ['not-found'],
  },
  repeatDelivery: {
    method: 'post',
    path: '/api/deliveries/{deliveryId}/repeat',
    summary: 'The same again with what stands there now; what lies at the receiver unchanged is not sent',
    answer: Delivery,
    status: 201,
    errors: ['not-found', 'nothing-there', 'no-place', 'no-delivery'],
  },
  getDeliveryZip: {
    method: 'get',
    path: '/api/deliveries/{deliveryId}/files.zip',
    summary: 'The ZIP of a delivery that is done, or a part of it',
    media: 'application/zip',
    errors: ['not-found', 'delivery-over', 'output-missing'],
  },
  getDeliveryMessage: {
    method: 'get',
    path: '/api/deliveries/{deliveryId}/message.eml',
    summary: 'A message of a delivery, as a mail program opens it',
    query: z.object({ number: z.coerce.number<number>().int().min(1) }),
    media: 'message/rfc822',
    errors: ['not-found'],
  },
  viewGallery: {
    method: 'post',
    path: '/api/sets/{setId}/gallery-view',
    summary: 'Shows a gallery as it will be, with what stands there now; sends nothing',
    body: NewDelivery,
    answer: z.object({ page: z.string().meta({ description: 'Address of the page, until some others have been looked at' }) }),
    errors: ['not-found', 'nothing-there', 'no-delivery'],
  },
  writeSnippet: {
    method: 'post',
    path: '/api/sets/{setId}/gallery-snippet',
    summary: 'The HTML of a gallery for a page of one’s own',
    body: z.strictObject({
      delivery: NewDelivery,
      base: z.string().max(1000).meta({ description: 'Address of the folder in which the gallery lies; empty: the page’s own' }),
    }),
    answer: z.object({ html: z.string() }),
    errors: ['not-found', 'nothing-there', 'no-delivery'],
  },

  // Receivers
  listReceivers: {
    method: 'get',
    path: '/api/receivers',
    summary: 'Who is sent pictures, by name',
    answer: z.array(StoredReceiver),
  },
  createReceiver: {
    method: 'post',
    path: '/api/receivers',
    summary: 'Adds a receiver; what is secret is kept encrypted, and never told again',
    body: NewReceiver,
    answer: StoredReceiver,
    status: 201,
  },
  // Before those with an id in their path.
  testReceiver: {
    method: 'post',
    path: '/api/receivers/test',
    summary: 'Tries whether a receiver, stored or not, can be reached and takes files; leaves nothing behind',
    body: ReceiverTestWish,
    answer: ReceiverTest,
    errors: ['not-found'],
  },
  listStandIns: {
    method: 'get',
    path: '/api/receivers/stand-ins',
    summary: 'The made-up receivers that ship with Rundle',
    answer: StandInsView,
  },
  addStandIn: {
    method: 'post',
    path: '/api/receivers/stand-ins',
    summary: 'Adds a made-up receiver, or finds it where it has been added',
    body: z.strictObject({ kind: z.enum(STAND_INS) }),
    answer: StoredReceiver,
    status: 201,
    errors: ['no-delivery'],
  },
  changeReceiver: {
    method: 'put',
    path: '/api/receivers/{receiverId}',
    summary: 'Changes a receiver; without a secret the one that is kept stays, unless it is another place or user',
    body: NewReceiver,
    answer: StoredReceiver,
    errors: ['not-found'],
  },
  deleteReceiver: {
    method: 'delete',
    path: '/api/receivers/{receiverId}',
    summary: 'Deletes a receiver and what is secret of it; its deliveries stay on record',
    errors: ['not-found'],
  },
} as const satisfies Record<string, Endpoint>;
