import type { Answers } from '../../core/forms/index.ts';
import { howToAnswer } from '../../core/formats/index.ts';
import type { ItemDefinition } from '../../core/items/index.ts';
import { quoted } from '../../core/values/index.ts';
import type { Names } from '../people/names.ts';
import { caseNumber, valueWords, type CaseKind } from '../words.ts';

interface Asked {
  definition: ItemDefinition;
  kind: CaseKind;
  number: number;
  requester: string;
  answers: Answers;
  names: Names;
  reminder: boolean;
}

/** To an approver: what is asked for, by whom, with which answers. */
export function approvalAsked({ definition, kind, number, requester, answers, names, reminder }: Asked): { subject: string; text: string } {
  return {
    subject: `${reminder ? 'Reminder: your' : 'Your'} approval is asked for: ${definition.name}, ${caseNumber(kind, number)}`,
    text: [
      kind === 'ticket' ? `A ticket of ${requester} waits for “${definition.name}”.` : `${requester} asks for “${definition.name}”.`,
      '',
      ...definition.form.fields.flatMap((f) => {
        const said = valueWords(answers[f.id], names, f);
        const lines = quoted(said).trimEnd();
        return said ? [`${f.label}:${lines.startsWith('\n') ? '' : ' '}${lines}`] : [];
      }),
    ].join('\n'),
  };
}

/** The ways to answer: signed in; in chat; by the link that works once; by a reply. The pages only show; deciding is a click there. */
export function waysToDecide(ways: { signedIn: string; via: 'mail' | 'chat'; link: string; linkDays: number; replies: boolean }): string {
  const signedIn = `\n\nApprove or decline, signed in:\n${ways.signedIn}\n`;
  if (ways.via === 'chat') return `${signedIn}\nOr answer here. ${howToAnswer}\n`;
  const reply = ways.replies ? `\nOr reply to this mail. ${howToAnswer}\n` : '';
  return `${signedIn}\nApprove or decline without signing in (works once, for ${ways.linkDays} days; do not pass it on):\n${ways.link}\n${reply}`;
}
