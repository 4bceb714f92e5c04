/** A file by its name (RFC 6266): in signs that every reader knows, and as it is. */
export const attached = (name: string): string =>
  `attachment; filename="${name.replaceAll(/[^\x20-\x7e]|["\\%]/g, '-')}"; filename*=UTF-8''${encodeURIComponent(name).replaceAll(/['()*]/g, (c) => `%${c.charCodeAt(0).toString(16).toUpperCase()}`)}`;
