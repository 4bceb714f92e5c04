interface Robot {
  id: string;
  does: string;
  parameters: object;
}

/** What the robots understand, as an OpenAPI 3.1 document. */
export function robotsApi(robots: Robot[]): object {
  const ref = (name: string) => ({ $ref: `#/components/schemas/${name}` });
  const json = (schema: object) => ({ content: { 'application/json': { schema } } });
  const problem = { description: 'Refused', content: { 'application/problem+json': { schema: ref('Problem') } } };
  const key = { name: 'Idempotency-Key', in: 'header', required: false, schema: { type: 'string' } };
  return {
    openapi: '3.1.0',
    info: { title: 'Robots', version: '1', description: 'Jobs that a robot does as a person would, one after another.' },
    servers: [{ url: '/desk' }],
    security: [{ bearer: [] }],
    paths: {
      ...Object.fromEntries(
        robots.map((r) => [
          `/robots/${r.id}/jobs`,
          {
            post: {
              operationId: `start-${r.id}`,
              summary: r.does,
              parameters: [key],
              requestBody: { required: true, ...json(r.parameters) },
              responses: { 202: { description: 'Accepted; it waits for its turn', ...json(ref('Job')) }, 422: problem },
            },
          },
        ]),
      ),
      '/jobs/{id}': {
        get: {
          operationId: 'readJob',
          summary: 'How a job stands',
          parameters: [{ name: 'id', in: 'path', required: true, schema: { type: 'string' } }],
          responses: {
            200: { description: 'It is done or has failed', ...json(ref('Job')) },
            202: { description: 'It is under way', ...json(ref('Job')) },
            404: problem,
          },
        },
      },
    },
    components: {
      securitySchemes: { bearer: { type: 'http', scheme: 'bearer' } },
      schemas: {
        Job: {
          type: 'object',
          required: ['id', 'robot', 'state'],
          properties: {
            id: { type: 'string' },
            robot: { type: 'string', enum: robots.map((r) => r.id) },
            state: { type: 'string', enum: ['waiting', 'running', 'done', 'failed'] },
            progress: { type: 'string' },
            cause: { type: 'string' },
            result: { type: 'object' },
          },
        },
        Problem: { type: 'object', properties: { status: { type: 'integer' }, title: { type: 'string' }, detail: { type: 'string' } } },
      },
    },
  };
}
