import { described, json, keyHeader, pageOf, problemOf, ref } from './described.ts';

/** What the tracker of the yard understands, as an OpenAPI 3.1 document. */
export function yardApi(states: string[]): object {
  const item = { name: 'item', in: 'path', required: true, schema: { type: 'string' } };
  const from = { name: 'from', in: 'query', required: false, schema: { type: 'integer' } };
  const answered = (description: string, schema: string) => ({ description, ...json(ref(schema)) });
  const string = { type: 'string' };
  return described(
    { title: 'Yard', description: 'Items that the people of a yard work at in their own time, with what is said about each.' },
    '/tracker',
    {
      '/items': {
        post: {
          operationId: 'openItem',
          summary: 'Open an item',
          parameters: [keyHeader],
          requestBody: { required: true, ...json(ref('Wanted')) },
          responses: { 202: answered('Opened; its people have it before them', 'Item'), 422: problemOf },
        },
      },
      '/items/{item}': {
        get: {
          operationId: 'readItem',
          summary: 'How an item stands',
          parameters: [item],
          responses: { 200: answered('It has ended', 'Item'), 202: answered('It is open', 'Item'), 404: problemOf },
        },
      },
      '/items/{item}/call-off': {
        post: {
          operationId: 'callOff',
          summary: 'Call an item off',
          parameters: [item, keyHeader],
          responses: { 200: answered('Called off', 'Item'), 404: problemOf, 409: problemOf },
        },
      },
      '/items/{item}/comments': {
        get: {
          operationId: 'listComments',
          summary: 'What was said about an item',
          parameters: [item, from],
          responses: { 200: { description: 'A page of it, and the path of the next', ...json(pageOf('comments', 'Comment', true)) }, 404: problemOf },
        },
        post: {
          operationId: 'comment',
          summary: 'Say something about an item',
          parameters: [item, keyHeader],
          requestBody: { required: true, ...json(ref('Said')) },
          responses: { 201: answered('Said', 'Comment'), 404: problemOf, 409: problemOf, 422: problemOf },
        },
      },
    },
    {
      Wanted: {
        type: 'object',
        required: ['title', 'text', 'vessel'],
        properties: {
          title: { ...string, title: 'What is wrong, in a line' },
          text: { ...string, title: 'What there is to know' },
          vessel: { ...string, title: 'Vessel' },
          reference: { ...string, title: 'What whoever opens it calls it' },
        },
      },
      Item: {
        type: 'object',
        required: ['item', 'state', 'says'],
        properties: {
          item: string,
          title: string,
          vessel: string,
          reference: string,
          state: { ...string, enum: states },
          says: string,
          done: { ...string, title: 'What was done' },
        },
      },
      Said: { type: 'object', required: ['text', 'by'], properties: { text: string, by: string } },
      Comment: {
        type: 'object',
        required: ['id', 'by', 'text', 'at'],
        properties: { id: { type: 'integer' }, by: string, text: string, at: { ...string, format: 'date-time' } },
      },
    },
  );
}
