import { described, idInPath, json, keyHeader, problemOf, ref } from './described.ts';

interface Robot {
  id: string;
  does: string;
  parameters: object;
}

/** What the robots understand, as an OpenAPI 3.1 document. */
export function robotsApi(robots: Robot[]): object {
  return described(
    { title: 'Robots', description: 'Jobs that a robot does as a person would, one after another.' },
    '/desk',
    {
      ...Object.fromEntries(
        robots.map((r) => [
          `/robots/${r.id}/jobs`,
          {
            post: {
              operationId: `start-${r.id}`,
              summary: r.does,
              parameters: [keyHeader],
              requestBody: { required: true, ...json(r.parameters) },
              responses: { 202: { description: 'Accepted; it waits for its turn', ...json(ref('Job')) }, 422: problemOf },
            },
          },
        ]),
      ),
      '/jobs/{id}': {
        get: {
          operationId: 'readJob',
          summary: 'How a job stands',
          parameters: [idInPath],
          responses: {
            200: { description: 'It is done or has failed', ...json(ref('Job')) },
            202: { description: 'It is under way', ...json(ref('Job')) },
            404: problemOf,
          },
        },
      },
    },
    {
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
    },
  );
}
