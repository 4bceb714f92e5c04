import type { Letter } from '../letters/index.ts';
import { sentence, type RichText } from '../values/index.ts';

/** A decision as a paper has it; times and ways are said already. */
export interface DecidedOn {
  at: string;
  who: string;
  /** In whose place. */
  instead: string | null;
  decision: string;
  comment: string;
  gate: string;
  /** The request or ticket: its number, of what, and whose. */
  of: string;
  way: string;
  /** The entry of the log of changes, its link in the chain and the hash there; null while it hangs in none yet. */
  entry: number | null;
  link: number | null;
  hash: string | null;
}

/** More than so many do not go on one paper. */
export const mostOnPaper = 1000;

/** A hash in groups of eight, so that it can be read out and goes round the end of a line. */
const grouped = (hash: string): string => hash.replaceAll(/(.{8})(?=.)/g, '$1 ');

/**
 * Decisions on paper, with what the log of changes has of each, and where its chain ended when the paper was taken.
 *
 * @param about What is on it: one line for each way in which it was narrowed.
 * @param taken When it was taken and by whom, in words.
 */
export function decisionsPaper(of: {
  fileName: string;
  about: readonly string[];
  taken: string;
  lastFirst: boolean;
  rows: readonly DecidedOn[];
  chain: { link: number; hash: string } | undefined;
}): Letter {
  const cells = (r: DecidedOn): RichText[] => [
    sentence(r.at),
    [[{ text: r.who, bold: true }], ...(r.instead === null ? [] : sentence(`in place of ${r.instead}`))],
    [[{ text: r.decision, bold: true }], ...(r.comment ? sentence(`“${r.comment}”`) : [])],
    [...sentence(r.gate), ...sentence(r.of)],
    [
      ...sentence(r.way),
      ...sentence(
        r.entry === null
          ? 'Not in the log of changes'
          : r.link === null
            ? `Log entry ${r.entry}, not in the chain yet`
            : `Log entry ${r.entry}, link ${r.link}`,
      ),
      ...(r.hash === null ? [] : sentence(grouped(r.hash))),
    ],
  ];
  const n = of.rows.length;
  const count = n === 0 ? 'No decision' : n === 1 ? 'One decision' : `${n} decisions, the ${of.lastFirst ? 'last' : 'first'} on top`;
  return {
    fileName: `${of.fileName}.pdf`,
    head: sentence(`Decisions, ${of.taken}`),
    title: sentence('Decisions'),
    landscape: true,
    numbered: true,
    body: [
      {
        words: [
          [{ text: `${count}, ` }, { text: of.taken, bold: true }, { text: '.' }],
          ...(of.about.length > 0 ? [{ list: 'points' as const, items: of.about.map((line) => [{ text: line }]) }] : []),
        ],
        ...(n > 0 && {
          table: {
            heads: ['Decided', 'Who', 'Decision, in which words', 'What was asked', 'By which way, and its place in the log'],
            shares: [13, 16, 26, 22, 23],
            rows: of.rows.map(cells),
          },
        }),
      },
      {
        words: [
          [
            { text: 'The proof. ', bold: true },
            {
              text: 'Every decision stands in the log of changes, which nobody can rewrite unseen: each entry hangs in a chain, and the hash of a link is SHA-256 over its entry and the hash before it. The link and the hash of each stand beside it. ',
            },
            of.chain
              ? { text: `When this was taken the chain ended with link ${of.chain.link}, whose hash was ${grouped(of.chain.hash)}. ` }
              : { text: 'When this was taken the chain had no link yet. ' },
            {
              text: 'Whoever keeps this paper can hold it against the log later: the links have to have these hashes still, and “npm run verify-log” walks the whole chain.',
            },
          ],
        ],
      },
    ],
  };
}
