import { described, json, keyHeader, pageOf, problemOf, ref } from './described.ts';

/** What the project spaces understand, as an OpenAPI 3.1 document. */
export function spacesApi(templates: string[]): object {
  const name = { name: 'name', in: 'path', required: true, schema: { type: 'string' } };
  const owner = { name: 'owner', in: 'path', required: true, schema: { type: 'string' } };
  const after = { name: 'after', in: 'query', required: false, schema: { type: 'string' } };
  const space = (description: string) => ({ description, ...json(ref('Space')) });
  const act = (operationId: string, summary: string, more: object[] = [], body?: string) => ({
    operationId,
    summary,
    parameters: [name, ...more, keyHeader],
    ...(body && { requestBody: { required: true, ...json(ref(body)) } }),
    responses: { 200: space('As it stands then'), 404: problemOf, 409: problemOf },
  });
  const page = (kind: string, rows: string) => ({
    200: { description: 'A page of them, and the path of the next', ...json(pageOf(rows, kind, true)) },
  });
  const seen = { type: 'string', enum: ['members', 'everyone'], title: 'Who may read it' };
  return described(
    { title: 'Project spaces', description: 'Shared places for files, each with a name of its own and two owners at least while it is open.' },
    '/house',
    {
      '/names/{name}': {
        get: {
          operationId: 'isTaken',
          summary: 'Find out whether a name is taken',
          parameters: [name],
          responses: { 200: { description: 'Whether a space has it', ...json(ref('Name')) } },
        },
      },
      '/templates': {
        get: {
          operationId: 'listTemplates',
          summary: 'The templates there are',
          responses: { 200: { description: 'What a space can begin with', ...json(pageOf('templates', 'Template')) } },
        },
      },
      '/spaces': {
        get: { operationId: 'listSpaces', summary: 'The spaces that are open', parameters: [after], responses: page('Space', 'spaces') },
        post: {
          operationId: 'prepareSpace',
          summary: 'Prepare a space',
          parameters: [keyHeader],
          requestBody: { required: true, ...json(ref('Wanted')) },
          responses: { 201: space('Prepared; it opens once it has two owners'), 409: problemOf, 422: problemOf },
        },
      },
      '/spaces/{name}': {
        get: { operationId: 'readSpace', summary: 'How a space stands', parameters: [name], responses: { 200: space('The space'), 404: problemOf } },
        patch: act('changeSpace', 'Change who may read a space', [], 'Change'),
        delete: act('removeSpace', 'Remove a space that is not open'),
      },
      '/spaces/{name}/open': { post: act('openSpace', 'Open a space') },
      '/spaces/{name}/close': { post: act('closeSpace', 'Close a space') },
      '/spaces/{name}/owners/{owner}': {
        put: act('addOwner', 'Make somebody an owner of a space', [owner]),
        delete: act('removeOwner', 'Take an owner off a space', [owner]),
      },
      '/owners': { get: { operationId: 'listOwners', summary: 'Who owns which space', parameters: [after], responses: page('Ownership', 'owners') } },
    },
    {
      Name: { type: 'object', required: ['name', 'taken'], properties: { name: { type: 'string' }, taken: { type: 'boolean' } } },
      Template: {
        type: 'object',
        required: ['id', 'name', 'about'],
        properties: { id: { type: 'string' }, name: { type: 'string' }, about: { type: 'string', title: 'What is in it' } },
      },
      Wanted: {
        type: 'object',
        required: ['name', 'template', 'seen', 'purpose'],
        properties: { name: { type: 'string' }, template: { type: 'string', enum: templates }, seen, purpose: { type: 'string' } },
      },
      Change: { type: 'object', required: ['seen'], properties: { seen } },
      Ownership: {
        type: 'object',
        required: ['id', 'space', 'owner'],
        properties: { id: { type: 'string' }, space: { type: 'string' }, owner: { type: 'string' } },
      },
      Space: {
        type: 'object',
        required: ['name', 'template', 'seen', 'purpose', 'state', 'owners', 'idleDays'],
        properties: {
          name: { type: 'string' },
          address: { type: 'string' },
          template: { type: 'string', enum: templates },
          seen,
          purpose: { type: 'string' },
          state: { type: 'string', enum: ['prepared', 'open', 'closed'] },
          owners: { type: 'integer', title: 'Owners' },
          firstOwner: { type: 'string' },
          idleDays: { type: 'integer', title: 'Days without use' },
        },
      },
    },
  );
}
