/** A line that says that another message follows, as mail programs put it. */
const separator = /^(-{2,}\s*original message\s*-{2,}|_{10,})\s*$/i;
const quoted = (line: string): boolean => line.startsWith('>');
/** Where a mail program repeats the header of what is answered. */
const headerOf = (lines: string[], at: number): boolean =>
  /^\*?(from|sent|date|to|subject)\*?:\s/i.test(lines[at]!) &&
  lines.slice(at + 1, at + 5).filter((l) => /^\*?(from|sent|date|to|cc|subject)\*?:\s/i.test(l)).length >= 2;

/**
 * What somebody wrote themselves in an answer: what it repeats of the message answered is left out where it stands at the end, and so is the
 * signature (RFC 3676, 4.3). Where they wrote between the lines of what they quote, all of it is theirs. Where nothing would be left, nothing
 * is left out.
 */
export function ownWords(text: string): string {
  const lines = text.replace(/\r\n?/g, '\n').split('\n');
  let end = lines.length;
  const repeated = lines.findIndex((line, i) => separator.test(line.trim()) || headerOf(lines, i));
  if (repeated >= 0) end = repeated;
  const signature = lines.slice(0, end).findLastIndex((line) => line === '-- ' || line === '--');
  // What follows a signature is no word of theirs, unless more of them follows what is quoted there.
  if (signature >= 0 && !lines.slice(signature, end).some(quoted)) end = signature;
  end = withoutEmpty(lines, end);
  if (end > 0 && quoted(lines[end - 1]!)) {
    while (end > 0 && (quoted(lines[end - 1]!) || lines[end - 1]!.trim() === '')) end--;
    // The line that introduces it, over one or two lines, ends with a colon.
    if (end > 0 && lines[end - 1]!.trim().endsWith(':')) {
      end--;
      if (end > 0 && /^\S.*\d/.test(lines[end - 1]!) && lines[end - 2]?.trim() === '') end--;
    }
    const before = lines.slice(0, end).findLastIndex((line) => line === '-- ' || line === '--');
    if (before >= 0 && !lines.slice(before, end).some(quoted)) end = before;
  }
  const own = lines.slice(0, end).join('\n').trim();
  return own === '' ? text.trim() : own;
}

function withoutEmpty(lines: string[], end: number): number {
  while (end > 0 && lines[end - 1]!.trim() === '') end--;
  return end;
}

const longest = 160;

/** The line by which a message without one is known: the first of what it says. */
export function subjectOf(subject: string, words: string): string {
  const line = subject.replace(/^(\s*(re|fwd?|aw|sv|vs|tr)\s*:\s*)+/i, '').trim() || (words.split('\n').find((l) => l.trim() !== '') ?? '').trim();
  const short = line.replace(/\s+/g, ' ');
  return short.length <= longest ? short : `${short.slice(0, longest - 1)}…`;
}
