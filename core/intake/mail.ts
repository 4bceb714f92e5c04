/** What a mail is beside its words, as its header says. */
export interface MailHeader {
  /** Every field with its value unfolded, in order, by its name in small letters. */
  fields: readonly (readonly [name: string, value: string])[];
  /** The address its envelope came from; nothing: it was sent by a mail server (RFC 5321, 4.5.5). */
  envelopeFrom: string;
}

const all = ({ fields }: MailHeader, name: string): string[] => fields.flatMap(([n, value]) => (n === name ? [value.trim()] : []));
const first = (header: MailHeader, name: string): string | undefined => all(header, name)[0]?.toLowerCase();

/**
 * Whether nobody wrote it by hand (RFC 3834): `answer`, to something that was sent, such as an absence, or that it could not be
 * delivered; `program`, on its own or to a list. Older marks than the standard's are read too (common practice).
 */
export function automaticOf(header: MailHeader): 'answer' | 'program' | undefined {
  const auto = first(header, 'auto-submitted')?.split(';')[0]?.trim();
  if (auto?.startsWith('auto-replied')) return 'answer';
  if (header.envelopeFrom === '' || first(header, 'x-autoreply') !== undefined || first(header, 'x-autorespond') !== undefined) return 'answer';
  if (/^auto_reply/.test(first(header, 'precedence') ?? '')) return 'answer';
  if (auto !== undefined && auto !== 'no') return 'program';
  const listed = first(header, 'list-id') !== undefined || /^(bulk|list|junk)/.test(first(header, 'precedence') ?? '');
  return listed || first(header, 'x-auto-response-suppress') !== undefined ? 'program' : undefined;
}

/** So many servers a mail may have come through before it goes round in a circle (RFC 5321, 6.3: at least a hundred). */
const mostServers = 100;

/** Whether a mail goes round in a circle: it is one of ours (`domain`), or has come through too many servers. */
export function goesRound(header: MailHeader, domain: string): boolean {
  const id = first(header, 'message-id');
  return all(header, 'received').length > mostServers || (id !== undefined && id.endsWith(`@${domain.toLowerCase()}>`));
}

/** The messages it answers, the nearest first (RFC 5322, 3.6.4). */
export function answeredBy(header: MailHeader): string[] {
  const ids = (name: string) => all(header, name).flatMap((value) => value.match(/<[^<>\s]{1,250}>/g) ?? []);
  return [...new Set([...ids('in-reply-to'), ...ids('references').reverse()])].slice(0, 100);
}

/** The address that answers about a case go to: the name of a way in, and which ticket or request it is. */
export const addressOf = (name: string, of: { number: number; is: 'ticket' | 'request' }, domain: string): string =>
  `${name}+${of.is === 'ticket' ? 't' : 'r'}${of.number}@${domain}`;

/** An address of ours: its name, and the number of the ticket or request it is about. Undefined: it is none of `domain`. */
export function ourAddress(address: string, domain: string): { name: string; number?: number } | undefined {
  const at = address.lastIndexOf('@');
  if (at < 1 || address.slice(at + 1).toLowerCase() !== domain.toLowerCase()) return undefined;
  const [name = '', sub] = address.slice(0, at).toLowerCase().split('+', 2);
  const number = /^[tr](\d{1,15})$/.exec(sub ?? '')?.[1];
  return { name, ...(number !== undefined && { number: Number(number) }) };
}
