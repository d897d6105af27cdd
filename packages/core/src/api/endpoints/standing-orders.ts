import * as z from 'zod';
import { NewStandingOrder, OrderFile, StandingOrder, StandingOrderChange } from '../../standing-order/standing-order';
import type { Endpoint } from '../endpoint';

/** Calls about folders that are watched. */
export const STANDING_ORDERS_ENDPOINTS = {
  listStandingOrders: {
    method: 'get',
    path: '/api/standing-orders',
    summary: 'The standing orders, oldest first, with what each did today',
    answer: z.array(StandingOrder),
  },
  createStandingOrder: {
    method: 'post',
    path: '/api/standing-orders',
    summary: 'Has a folder watched from now on',
    body: NewStandingOrder,
    answer: StandingOrder,
    status: 201,
    errors: ['not-found', 'no-folder', 'outside', 'no-place', 'place-asked', 'too-many'],
  },
  changeStandingOrder: {
    method: 'patch',
    path: '/api/standing-orders/{orderId}',
    summary: 'Changes a standing order, or switches it on or off',
    body: StandingOrderChange,
    answer: StandingOrder,
    errors: ['not-found', 'no-place', 'place-asked'],
  },
  deleteStandingOrder: {
    method: 'delete',
    path: '/api/standing-orders/{orderId}',
    summary: 'Ends a standing order; its sets and files stay',
    errors: ['not-found'],
  },
  listOrderFiles: {
    method: 'get',
    path: '/api/standing-orders/{orderId}/files',
    summary: 'The last files that came, and what became of each',
    answer: z.array(OrderFile),
    errors: ['not-found'],
  },
} as const satisfies Record<string, Endpoint>;
