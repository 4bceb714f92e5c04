import { described, idInPath, json, keyHeader, pageOf, problemOf, ref } from './described.ts';

/** What the guest house understands, as an OpenAPI 3.1 document. */
export function guestsApi(rooms: string[]): object {
  const sponsor = { type: 'string', title: 'Who answers for them' };
  const guest = (description: string) => ({ description, ...json(ref('Guest')) });
  return described(
    { title: 'Guest house', description: 'People from elsewhere, invited by mail and let into rooms once they have accepted.' },
    '/house',
    {
      '/guests': {
        get: {
          operationId: 'listGuests',
          summary: 'Who is invited, and who has accepted',
          parameters: [{ name: 'after', in: 'query', required: false, schema: { type: 'string' } }],
          responses: { 200: { description: 'A page of them, and the path of the next', ...json(pageOf('guests', 'Guest', true)) } },
        },
        post: {
          operationId: 'inviteGuest',
          summary: 'Invite a guest',
          parameters: [keyHeader],
          requestBody: { required: true, ...json(ref('Wanted')) },
          responses: { 201: guest('Invited'), 409: problemOf, 422: problemOf },
        },
      },
      '/guests/{id}': {
        get: {
          operationId: 'readGuest',
          summary: 'How a guest stands',
          parameters: [idInPath],
          responses: { 200: guest('The guest'), 404: problemOf },
        },
        delete: {
          operationId: 'removeGuest',
          summary: 'Remove a guest',
          parameters: [idInPath, keyHeader],
          responses: { 200: guest('Removed'), 404: problemOf },
        },
      },
      '/guests/{id}/rooms/{room}': {
        put: {
          operationId: 'letIn',
          summary: 'Let a guest into a room',
          parameters: [idInPath, { name: 'room', in: 'path', required: true, schema: { type: 'string', enum: rooms } }, keyHeader],
          responses: { 200: guest('Let in'), 404: problemOf, 409: problemOf },
        },
      },
    },
    {
      Wanted: {
        type: 'object',
        required: ['mail', 'name', 'until'],
        properties: { mail: { type: 'string', format: 'email' }, name: { type: 'string' }, until: { type: 'string', format: 'date' }, sponsor },
      },
      Guest: {
        type: 'object',
        required: ['id', 'mail', 'name', 'until', 'rooms', 'state', 'accepted'],
        properties: {
          id: { type: 'string' },
          mail: { type: 'string' },
          name: { type: 'string' },
          until: { type: 'string', format: 'date' },
          sponsor,
          rooms: { type: 'array', items: { type: 'string', enum: rooms } },
          state: { type: 'string', enum: ['invited', 'accepted', 'removed'] },
          accepted: { type: 'boolean' },
        },
      },
    },
  );
}
