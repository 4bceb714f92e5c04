/** What somebody answered in their own words to a message that asked for an approval. */
export type Reply = { decision: 'approve' | 'decline'; comment: string } | { unclear: string };

/** What the messages themselves offer; nothing else decides. */
export const howToAnswer = 'Write Approve or Decline alone on the first line, and your comment below it.';

const words = new Map([
  ['approve', 'approve'],
  ['decline', 'decline'],
] as const);
/** Where the quoted message begins: a line that introduces it, a separator, or the quotation itself. */
const quoted = /^(>|on .*wrote:\s*$|-{2,}\s*original message|_{5,}|from:\s)/i;

/**
 * Reads an answer. The first line the person wrote has to be one of the two words offered, and nothing else; what stands
 * below it is the comment. So “No objections, go ahead” declines nothing, and “OK?” approves nothing. Quoted text and
 * signatures (RFC 3676, 4.3: a line of "-- ") are left out. Anything else is unclear, and decides nothing.
 */
export function readReply(text: string): Reply {
  const lines: string[] = [];
  for (const line of text.replace(/\r\n?/g, '\n').split('\n')) {
    if (quoted.test(line.trim()) || line === '-- ' || line === '--') break;
    lines.push(line);
  }
  const said = lines.join('\n').trim();
  const [first = '', ...rest] = said.split('\n');
  const decision = words.get(first.trim().toLowerCase().replace(/[.!]$/, '') as 'approve');
  if (!decision) return { unclear: said.slice(0, 200) };
  return { decision, comment: rest.join('\n').trim().slice(0, 2000) };
}
