import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { guestsApi } from '../../standins/guests-api.ts';
import { machinesApi } from '../../standins/machines-api.ts';
import { openApiActions, webRequest, WebAction, type Offered } from './index.ts';

const of = (document: unknown): Offered => {
  const read = openApiActions(document);
  if (!read.ok) throw new Error(read.sentence);
  return read.offered;
};
const about = (paths: object, components: object = {}) => ({ openapi: '3.1.0', info: { title: 'Berths', version: '1' }, paths, components });
const sent = (properties: object, required: string[] = []) => ({
  requestBody: { content: { 'application/json': { schema: { type: 'object', properties, required } } } },
});

describe('an OpenAPI document', () => {
  it('of the machine park: making and taking down are answered later, what is made is read from where it is asked about', () => {
    const park = of(machinesApi({ sizes: [{ id: 'Small' }], images: [{ id: 'plain' }], regions: [{ id: 'hall' }], longestLease: 180 }));
    expect(park).toMatchObject({ name: 'Machine park', address: undefined, left: [] });
    const make = park.actions.find((a) => a.id === 'makeMachine')!;
    expect(make).toMatchObject({ label: 'Make a machine', method: 'POST', path: '/machines' });
    expect(make.inputs.map((i) => [i.name, i.type, i.required])).toEqual([
      ['size', 'text', true],
      ['region', 'text', true],
      ['image', 'text', false],
      ['days', 'number', true],
      ['owner', 'text', false],
      ['purpose', 'text', false],
      ['costCentre', 'text', false],
    ]);
    expect(make.inputs.flatMap((i) => (i.oneOf ? [[i.name, i.oneOf]] : []))).toEqual([
      ['size', ['Small']],
      ['region', ['hall']],
      ['image', ['plain']],
    ]);
    expect(make.inputs.find((i) => i.name === 'days')).toMatchObject({ most: 180 });
    expect(make.later?.asked).toEqual({ path: '/machines/{job}', job: '/id', firstPauseSeconds: 5, mostPauseSeconds: 300 });
    expect(make.outputs.find((o) => o.name === 'until')).toEqual({ name: 'until', label: 'Until', type: 'date', at: '/until', always: true });
    expect(make.outputs.find((o) => o.name === 'signIn')).toMatchObject({ secret: true, always: false });
    expect(park.actions.find((a) => a.id === 'takeDownMachine')).toMatchObject({
      method: 'DELETE',
      path: '/machines/{id}',
      inputs: [{ name: 'id', required: true }],
      later: { asked: { path: '/machines/{job}' } },
    });
    expect(park.actions.find((a) => a.id === 'resizeMachine')).toMatchObject({ later: { asked: { path: '/machines/{job}/size', job: '/id' } } });
    for (const id of ['extendMachine', 'readMachine', 'stopMachine', 'startMachine'])
      expect(park.actions.find((a) => a.id === id)).not.toHaveProperty('later');
  });

  it('of the machine park: what answers rows is a list, with what a row says but for what is secret; a row is no action', () => {
    const park = of(machinesApi({ sizes: [{ id: 'Small' }], images: [{ id: 'plain' }], regions: [{ id: 'hall' }], longestLease: 180 }));
    expect(park.lists.map((l) => [l.id, l.label, l.path, l.rows, l.next])).toEqual([
      ['listSizes', 'The sizes there are', '/sizes', '/sizes', undefined],
      ['listMachines', 'The machines there are', '/machines', '/machines', '/next'],
    ]);
    expect(park.lists[0]!.columns).toEqual([
      { name: 'id', label: 'Size', at: '/id' },
      { name: 'processors', label: 'Processors', at: '/processors' },
      { name: 'memoryGb', label: 'Memory', at: '/memoryGb' },
      { name: 'dayEur', label: 'A day costs', at: '/dayEur' },
      { name: 'region', label: 'Where it runs', at: '/region' },
      { name: 'mostDays', label: 'Lent for at most', at: '/mostDays' },
    ]);
    expect(park.lists[1]!.columns.map((c) => c.name)).not.toContain('signIn');
    expect(park.actions.map((a) => a.path)).not.toContain('/sizes');
  });

  it('what answers rows only once something is stated, of several lists or of none, is none', () => {
    const rows = { type: 'array', items: { type: 'object', properties: { id: { type: 'string' } } } };
    const answers = (schema: object) => ({ responses: { 200: { description: '', content: { 'application/json': { schema } } } } });
    const listed = (paths: object) => of(about(paths)).lists.map((l) => [l.path, l.rows, l.next]);
    expect(
      listed({
        '/whole': { get: answers(rows) },
        '/of/{x}': { get: answers(rows) },
        '/wants': { get: { parameters: [{ name: 'q', in: 'query', required: true }], ...answers(rows) } },
        '/two': { get: answers({ type: 'object', properties: { a: rows, b: rows } }) },
        '/texts': { get: answers({ type: 'array', items: { type: 'string' } }) },
        '/posted': { post: answers(rows) },
        '/on': { get: answers({ type: 'object', properties: { 'my rows': rows, next: { type: ['string', 'null'] } } }) },
        '/not-on': { get: answers({ type: 'object', properties: { rows, next: { type: 'integer' } } }) },
      }),
    ).toEqual([
      ['/whole', '', undefined],
      ['/on', '/my rows', '/next'],
      ['/not-on', '/rows', undefined],
    ]);
  });

  it('of the guest house: what stands in the path and in the body are inputs, each of its type', () => {
    const { actions, left } = of(guestsApi(['tide-exchange']));
    expect(left).toEqual([]);
    expect(actions.find((a) => a.id === 'inviteGuest')?.inputs).toEqual([
      { name: 'mail', label: 'Mail', type: 'address', required: true },
      { name: 'name', label: 'Name', type: 'text', required: true },
      { name: 'until', label: 'Until', type: 'date', required: true },
      { name: 'sponsor', label: 'Who answers for them', type: 'text', required: false },
    ]);
    const letIn = actions.find((a) => a.id === 'letIn')!;
    expect(webRequest(letIn, { id: 'g-1', room: 'tide exchange' })).toEqual({ ok: true, path: '/guests/g-1/rooms/tide%20exchange', body: {} });
    expect(letIn.outputs.find((o) => o.name === 'accepted')).toMatchObject({ type: 'boolean', always: true });
  });

  it('tells what cannot be taken, and why: a query that is wanted, a list that is, one of several, no JSON, what is not described', () => {
    const { actions, left } = of(
      about({
        '/a': { get: { summary: 'Find', parameters: [{ name: 'q', in: 'query', required: true, schema: { type: 'string' } }] } },
        '/b': { post: { summary: 'Book', ...sent({ days: { type: 'array' } }, ['days']) } },
        '/c': { post: { summary: 'Choose', requestBody: { content: { 'application/json': { schema: { oneOf: [{}, {}] } } } } } },
        '/d': { post: { summary: 'Draw', requestBody: { content: { 'image/png': {} } } } },
        '/e/{x}': { get: { summary: 'Elsewhere', parameters: [{ $ref: 'https://elsewhere.example/x' }] } },
        '/g': { post: { summary: 'Go', responses: { 202: { description: 'Accepted' } } } },
        '/h': { post: { summary: 'Hold', requestBody: { $ref: '#/%' }, responses: {} } },
        '/f': {
          post: { summary: 'Fine', ...sent({ days: { type: ['integer', 'null'] }, crew: { type: 'array' }, 'not-ours': { type: 'string' } }) },
        },
      }),
    );
    expect(actions.map((a) => [a.label, a.inputs.map((i) => [i.name, i.type])])).toEqual([
      ['Hold', []],
      ['Fine', [['days', 'number']]],
    ]);
    expect(left).toEqual([
      { what: 'Find', why: 'It wants “q” in its query, where nothing can be stated.' },
      { what: 'Book', why: 'It wants “days”, which is nothing that a plan could state.' },
      { what: 'Choose', why: 'What it is sent is one of several things.' },
      { what: 'Draw', why: 'What it is sent is not JSON.' },
      { what: 'Elsewhere', why: 'It names a parameter that the document does not describe.' },
      { what: 'Go', why: 'It is accepted first (202), and nothing says by what it is asked about.' },
    ]);
  });

  it('takes over what others describe, makes what it is to be sent secretly, and calls two of one name by two', () => {
    const person = { type: 'object', properties: { givenName: { type: 'string', title: 'Given name' } }, required: ['givenName'] };
    const account = {
      allOf: [
        { $ref: '#/components/schemas/Person' },
        { type: 'object', properties: { signIn: { type: 'string', format: 'password', writeOnly: true } } },
      ],
      required: ['signIn'],
    };
    const post = { operationId: 'create', requestBody: { content: { 'application/json': { schema: { $ref: '#/components/schemas/Account' } } } } };
    const { actions } = of(about({ '/x': { post }, '/y': { post } }, { schemas: { Person: person, Account: account } }));
    expect(actions.map((a) => a.id)).toEqual(['create', 'create2']);
    expect(actions[0]!.inputs).toEqual([
      { name: 'givenName', label: 'Given name', type: 'text', required: true },
      { name: 'signIn', label: 'Sign in', type: 'text', required: true, made: true },
    ]);
  });

  it('is refused where it is none, and never goes round in a circle', () => {
    for (const none of [null, 7, [], {}, { openapi: '2.0' }, { swagger: '2.0', paths: {} }]) expect(openApiActions(none).ok).toBe(false);
    expect(openApiActions({ openapi: '3.1.0' })).toEqual({ ok: false, sentence: 'The document describes no paths.' });
    const round = { $ref: '#/components/schemas/Round' };
    const { left } = of(
      about(
        { '/a': { post: { summary: 'Round', requestBody: { content: { 'application/json': { schema: round } } } } } },
        { schemas: { Round: round } },
      ),
    );
    expect(left).toEqual([{ what: 'Round', why: 'What it is sent is not JSON.' }]);
    const self = { allOf: [{ $ref: '#/components/schemas/Self' }] };
    const deep = of(
      about({ '/a': { post: { summary: 'Deep', requestBody: { content: { 'application/json': { schema: self } } } } } }, { schemas: { Self: self } }),
    );
    expect(deep.left).toEqual([{ what: 'Deep', why: 'What it is sent goes too deep.' }]);
  });

  it('gives only what a system can be registered with, whatever it is given', () => {
    const some = fc.object({
      key: fc.constantFrom(
        'get',
        'post',
        'parameters',
        'requestBody',
        'content',
        'application/json',
        'schema',
        'properties',
        'required',
        'type',
        '$ref',
        'a',
        'b-c',
        'responses',
        '200',
        '202',
        'in',
        'name',
        'allOf',
        '__proto__',
      ),
      values: [fc.constantFrom('path', 'string', 'object', 'a', '#/paths/~1a', '#', 'query'), fc.boolean(), fc.constant(null)],
      maxDepth: 7,
    });
    fc.assert(
      fc.property(some, some, (a, b) => {
        const { actions } = of(about({ '/a/{a}': a, '/a': b }));
        for (const action of actions) expect(WebAction.safeParse(action).success).toBe(true);
        expect(new Set(actions.map((x) => x.id)).size).toBe(actions.length);
      }),
      { numRuns: 300 },
    );
  });
});
