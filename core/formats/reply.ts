/** What somebody answered in their own words to a message that asked for an approval. */
export type Reply = { decision: 'approve' | 'decline'; comment: string } | { unclear: string };

/** What the messages themselves offer; nothing else decides. */
export const howToAnswer = 'Write Approve or Decline alone on the first line, and your comment below it.';

const words = new Map<string, 'approve' | 'decline'>([
  ['approve', 'approve'],
  ['decline', 'decline'],
]);
/** Where the quoted message begins: a line that introduces it, a separator, or the quotation itself. */
const quoted = /^(>|on .*wrote:\s*$|-{2,}\s*original message|_{5,}|from:\s)/i;

/**
 * Reads an answer. The first line the person wrote has to be one of the words offered (`words`, in small letters), and nothing else; what
 * stands below it is the comment. So “No objections, go ahead” declines nothing, and “OK?” approves nothing. Quoted text and
 * signatures (RFC 3676, 4.3: a line of "-- ") are left out. Anything else is unclear, and says nothing.
 */
export function answerIn<A extends string>(text: string, offered: ReadonlyMap<string, A>): { answer: A; comment: string } | { unclear: string } {
  const lines: string[] = [];
  for (const line of text.replace(/\r\n?/g, '\n').split('\n')) {
    if (quoted.test(line.trim()) || line === '-- ' || line === '--') break;
    lines.push(line);
  }
  const said = lines.join('\n').trim();
  const [first = '', ...rest] = said.split('\n');
  const answer = offered.get(first.trim().toLowerCase().replace(/[.!]$/, ''));
  return answer === undefined ? { unclear: said.slice(0, 200) } : { answer, comment: rest.join('\n').trim().slice(0, 2000) };
}

/** Reads what somebody decided, as `answerIn` reads. */
export function readReply(text: string): Reply {
  const read = answerIn(text, words);
  return 'unclear' in read ? read : { decision: read.answer, comment: read.comment };
}
