/** What the OpenAPI documents of the stand-ins have in common. */
export const ref = (name: string) => ({ $ref: `#/components/schemas/${name}` });
export const json = (schema: object) => ({ content: { 'application/json': { schema } } });
/** An answer with rows of one kind; `paged`: with the path of its next page. */
export const pageOf = (rows: string, kind: string, paged = false) => ({
  type: 'object',
  required: [rows],
  properties: { [rows]: { type: 'array', items: ref(kind) }, ...(paged && { next: { type: 'string' } }) },
});
export const problemOf = { description: 'Refused', content: { 'application/problem+json': { schema: ref('Problem') } } };
export const idInPath = { name: 'id', in: 'path', required: true, schema: { type: 'string' } };
export const keyHeader = { name: 'Idempotency-Key', in: 'header', required: false, schema: { type: 'string' } };

/** An OpenAPI 3.1 document of these paths and schemas, behind a bearer token. */
export const described = (
  info: { title: string; description: string },
  url: string,
  paths: Record<string, object>,
  schemas: Record<string, object>,
): object => ({
  openapi: '3.1.0',
  info: { ...info, version: '1' },
  servers: [{ url }],
  security: [{ bearer: [] }],
  paths,
  components: {
    securitySchemes: { bearer: { type: 'http', scheme: 'bearer' } },
    schemas: {
      ...schemas,
      Problem: { type: 'object', properties: { status: { type: 'integer' }, title: { type: 'string' }, detail: { type: 'string' } } },
    },
  },
});
