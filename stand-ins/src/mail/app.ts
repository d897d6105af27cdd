import express, { type Express } from 'express';
import helmet from 'helmet';
import { ownMachineOnly } from '../own-machine';
import type { Box } from './box';

/** The page of the mail box. @param page folder of its own page */
export function mailApp(box: Box, page: string): Express {
  const app = express();
  app.disable('x-powered-by');
  app.use(helmet({ strictTransportSecurity: false, contentSecurityPolicy: { directives: { 'upgrade-insecure-requests': null } } }));
  app.use(ownMachineOnly('The stand-in mail box'));
  app.get('/letters', (_request, response) => void response.json(box.letters));
  app.get('/letters/:id/message.eml', (request, response, next) => {
    if (!box.letters.some(({ id }) => id === request.params.id)) return next();
    response.type('message/rfc822').sendFile(box.pathOf(request.params.id));
  });
  app.get('/letters/:id/attachments/:number', async (request, response, next) => {
    const found = await box.attachment(request.params.id, Number(request.params.number));
    if (!found) return next();
    response.type(found.contentType.startsWith('image/') ? found.contentType : 'application/octet-stream').send(found.content);
  });
  app.use(express.static(page));
  app.use((_request, response) => void response.status(404).json({ message: 'There is no such thing here.' }));
  return app;
}
