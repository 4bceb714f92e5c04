/** What the guest house understands, as an OpenAPI 3.1 document. */
export function guestsApi(rooms: string[]): object {
  const ref = (name: string) => ({ $ref: `#/components/schemas/${name}` });
  const json = (schema: object) => ({ content: { 'application/json': { schema } } });
  const problem = { description: 'Refused', content: { 'application/problem+json': { schema: ref('Problem') } } };
  const guest = (description: string) => ({ description, ...json(ref('Guest')) });
  const id = { name: 'id', in: 'path', required: true, schema: { type: 'string' } };
  const key = { name: 'Idempotency-Key', in: 'header', required: false, schema: { type: 'string' } };
  return {
    openapi: '3.1.0',
    info: { title: 'Guest house', version: '1', description: 'People from elsewhere, invited by mail and let into rooms once they have accepted.' },
    servers: [{ url: '/house' }],
    security: [{ bearer: [] }],
    paths: {
      '/guests': {
        post: {
          operationId: 'inviteGuest',
          summary: 'Invite a guest',
          parameters: [key],
          requestBody: { required: true, ...json(ref('Wanted')) },
          responses: { 201: guest('Invited'), 409: problem, 422: problem },
        },
      },
      '/guests/{id}': {
        get: { operationId: 'readGuest', summary: 'How a guest stands', parameters: [id], responses: { 200: guest('The guest'), 404: problem } },
        delete: {
          operationId: 'removeGuest',
          summary: 'Remove a guest',
          parameters: [id, key],
          responses: { 200: guest('Removed'), 404: problem },
        },
      },
      '/guests/{id}/rooms/{room}': {
        put: {
          operationId: 'letIn',
          summary: 'Let a guest into a room',
          parameters: [id, { name: 'room', in: 'path', required: true, schema: { type: 'string', enum: rooms } }, key],
          responses: { 200: guest('Let in'), 404: problem, 409: problem },
        },
      },
    },
    components: {
      securitySchemes: { bearer: { type: 'http', scheme: 'bearer' } },
      schemas: {
        Wanted: {
          type: 'object',
          required: ['mail', 'name', 'until'],
          properties: { mail: { type: 'string', format: 'email' }, name: { type: 'string' }, until: { type: 'string', format: 'date' } },
        },
        Guest: {
          type: 'object',
          required: ['id', 'mail', 'name', 'until', 'rooms', 'state', 'accepted'],
          properties: {
            id: { type: 'string' },
            mail: { type: 'string' },
            name: { type: 'string' },
            until: { type: 'string', format: 'date' },
            rooms: { type: 'array', items: { type: 'string', enum: rooms } },
            state: { type: 'string', enum: ['invited', 'accepted', 'removed'] },
            accepted: { type: 'boolean' },
          },
        },
        Problem: { type: 'object', properties: { status: { type: 'integer' }, title: { type: 'string' }, detail: { type: 'string' } } },
      },
    },
  };
}
