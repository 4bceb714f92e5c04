/** What somebody answered in their own words to a message that asked for an approval. */
export type Reply = { decision: 'approve' | 'decline'; comment: string } | { unclear: string };

const yes = /^(approved?|i approve|yes|ok|okay|agreed)\b[\s.,:;!–-]*/i;
const no = /^(declined?|i decline|no|rejected?|refused?)\b[\s.,:;!–-]*/i;
/** Where the quoted message begins: a line that introduces it, a separator, or the quotation itself. */
const quoted = /^(>|on .*wrote:\s*$|-{2,}\s*original message|_{5,}|from:\s)/i;

/**
 * Reads an answer: the first word decides, the rest is the comment. Quoted text and signatures (RFC 3676, 4.3:
 * a line of "-- ") are left out. Anything that does not begin with a clear word is unclear, and decides nothing.
 */
export function readReply(text: string): Reply {
  const lines: string[] = [];
  for (const line of text.replace(/\r\n/g, '\n').split('\n')) {
    if (quoted.test(line.trim()) || line === '-- ' || line === '--') break;
    lines.push(line);
  }
  const said = lines.join('\n').trim();
  const decision = yes.test(said) ? 'approve' : no.test(said) ? 'decline' : undefined;
  if (!decision) return { unclear: said.slice(0, 200) };
  return {
    decision,
    comment: said
      .replace(decision === 'approve' ? yes : no, '')
      .trim()
      .slice(0, 2000),
  };
}
