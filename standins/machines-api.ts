import { described, idInPath, json, keyHeader, pageOf, problemOf, ref } from './described.ts';

interface Catalog {
  sizes: { id: string }[];
  images: { id: string }[];
  regions: { id: string }[];
  longestLease: number;
}

/** What the machine park understands, as an OpenAPI 3.1 document. */
export function machinesApi({ sizes, images, regions, longestLease }: Catalog): object {
  const ids = (of: { id: string }[]) => of.map((o) => o.id);
  const accepted = (description: string) => ({ description, ...json(ref('Machine')), headers: { 'Retry-After': { schema: { type: 'integer' } } } });
  const act = (operationId: string, summary: string) => ({
    operationId,
    summary,
    parameters: [idInPath, keyHeader],
    responses: { 200: { description: 'As it stands then', ...json(ref('Machine')) }, 404: problemOf },
  });
  return described(
    { title: 'Machine park', description: 'Machines of given sizes in given regions, lent for days.' },
    '/park',
    {
      '/sizes': {
        get: {
          operationId: 'listSizes',
          summary: 'The sizes there are',
          responses: { 200: { description: 'Sizes', ...json(pageOf('sizes', 'Size')) } },
        },
      },
      '/machines': {
        get: {
          operationId: 'listMachines',
          summary: 'The machines there are',
          parameters: [{ name: 'after', in: 'query', required: false, schema: { type: 'string' } }],
          responses: { 200: { description: 'A page of them, and the path of the next', ...json(pageOf('machines', 'Machine', true)) } },
        },
        post: {
          operationId: 'makeMachine',
          summary: 'Make a machine',
          parameters: [keyHeader],
          requestBody: { required: true, ...json(ref('Wanted')) },
          responses: { 202: accepted('Accepted; it is being built'), 409: problemOf, 422: problemOf },
        },
      },
      '/machines/{id}/sign-in': {
        post: {
          operationId: 'newSignIn',
          summary: 'Make the sign-in to a machine anew',
          parameters: [idInPath, keyHeader],
          responses: { 200: { description: 'Made anew', ...json(ref('Machine')) }, 404: problemOf },
        },
      },
      '/machines/{id}/size': {
        get: {
          operationId: 'readSize',
          summary: 'How far a machine has come with its other size',
          parameters: [idInPath],
          responses: {
            200: { description: 'It has it, or has failed', ...json(ref('Sizing')) },
            202: { description: 'Under way', ...json(ref('Sizing')) },
            404: problemOf,
          },
        },
        post: {
          operationId: 'resizeMachine',
          summary: 'Give a machine another size',
          parameters: [idInPath, keyHeader],
          requestBody: {
            required: true,
            ...json({ type: 'object', required: ['size'], properties: { size: { type: 'string', enum: ids(sizes), title: 'Size' } } }),
          },
          responses: {
            202: { description: 'Accepted; it stands still for a while', ...json(ref('Sizing')) },
            404: problemOf,
            409: problemOf,
            422: problemOf,
          },
        },
      },
      '/machines/{id}/stop': { post: act('stopMachine', 'Stop a machine') },
      '/machines/{id}/start': { post: act('startMachine', 'Start a machine that was stopped') },
      '/machines/{id}': {
        get: {
          operationId: 'readMachine',
          summary: 'How a machine stands',
          parameters: [idInPath],
          responses: {
            200: { description: 'It runs, has failed or is gone', ...json(ref('Machine')) },
            202: accepted('Something is under way'),
            404: problemOf,
          },
        },
        patch: {
          operationId: 'extendMachine',
          summary: 'Lend a machine for more days',
          parameters: [idInPath, keyHeader],
          requestBody: { required: true, ...json({ type: 'object', required: ['days'], properties: { days: ref('Days') } }) },
          responses: { 200: { description: 'Extended', ...json(ref('Machine')) }, 404: problemOf, 422: problemOf },
        },
        delete: {
          operationId: 'takeDownMachine',
          summary: 'Take a machine down',
          parameters: [idInPath, keyHeader],
          responses: { 202: accepted('Accepted; it is being taken down'), 404: problemOf },
        },
      },
    },
    {
      Days: { type: 'integer', minimum: 1, maximum: longestLease },
      Wanted: {
        type: 'object',
        required: ['size', 'region', 'days'],
        properties: {
          size: { type: 'string', enum: ids(sizes) },
          region: { type: 'string', enum: ids(regions) },
          image: { type: 'string', enum: ids(images) },
          days: ref('Days'),
          owner: { type: 'string' },
          purpose: { type: 'string' },
          costCentre: { type: 'string' },
        },
      },
      Size: {
        type: 'object',
        required: ['id', 'processors', 'memoryGb', 'dayEur', 'region', 'mostDays'],
        properties: {
          id: { type: 'string', title: 'Size' },
          processors: { type: 'integer' },
          memoryGb: { type: 'number', title: 'Memory' },
          dayEur: { type: 'string', title: 'A day costs' },
          region: { type: 'string', enum: ids(regions), title: 'Where it runs' },
          mostDays: { type: 'integer', title: 'Lent for at most' },
        },
      },
      Sizing: {
        type: 'object',
        required: ['id', 'state', 'size'],
        properties: {
          id: { type: 'string' },
          state: { type: 'string', enum: ['resizing', 'resized', 'failed'] },
          size: { type: 'string' },
          progress: { type: 'string' },
          cause: { type: 'string' },
        },
      },
      Machine: {
        type: 'object',
        required: ['id', 'size', 'region', 'state', 'days', 'until'],
        properties: {
          id: { type: 'string' },
          size: { type: 'string' },
          region: { type: 'string' },
          owner: { type: 'string' },
          state: { type: 'string', enum: ['building', 'running', 'stopped', 'failed', 'going', 'deleted'] },
          progress: { type: 'string' },
          cause: { type: 'string' },
          days: ref('Days'),
          until: { type: 'string', format: 'date' },
          address: { type: 'string' },
          signIn: { type: 'string', format: 'password' },
        },
      },
    },
  );
}
