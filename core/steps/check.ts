import { own } from '../boundary/index.ts';
import {
  compareNumbers,
  digitsOf,
  fitsFor,
  isEmpty,
  isNumber,
  isOfType,
  isReference,
  piecesOf,
  rowType,
  typeWords,
  type Operand,
  type RichText,
  type Value,
  type ValueType,
} from '../values/index.ts';
import type { Catalogue } from './catalogue.ts';
import { goneWords, stop, unset, type Finding } from './finding.ts';
import type { Places } from './place.ts';
import type { Passage } from './settings.ts';
import type { Step } from './step.ts';

// What the rooms of several steps find in their settings.

/** Whether a text says nothing: no words, and no value picked. */
export const isWordless = (text: RichText): boolean => !piecesOf(text).some((x) => isReference(x) || x.text.trim() !== '');
/** The same of all passages of a message. */
export const areWordless = (all: Passage[]): boolean => all.every((p) => isWordless(p.text));

/** People named outright who are not known, or have left. */
export function personFindings(step: Step, ids: string[], catalogue: Catalogue): Finding[] {
  return ids.flatMap((id) => {
    const person = own(catalogue.people, id);
    if (person?.active) return [];
    const sentence = person ? `“${step.name}” asks ${person.name}, who has left.` : `“${step.name}” asks a person who is not known.`;
    return [stop(step, { code: 'unknown-person', sentence, mend: 'Pick somebody else.' })];
  });
}

/** A team that does not exist, or has no members. */
export function teamFindings(step: Step, id: string, catalogue: Catalogue): Finding[] {
  const team = own(catalogue.teams, id);
  if (!team) return [stop(step, { code: 'unknown-team', sentence: `“${step.name}” names a team that does not exist.`, mend: 'Pick a team.' })];
  return team.members > 0
    ? []
    : [
        stop(step, {
          code: 'nobody-to-ask',
          sentence: `“${step.name}” goes to ${team.name}, which has no members.`,
          mend: 'Give the team members, or pick another.',
        }),
      ];
}

/** A group that is not known any more. */
export const groupFindings = (step: Step, id: string, catalogue: Catalogue): Finding[] =>
  own(catalogue.stated, `group ${id}`) !== undefined
    ? []
    : [stop(step, { code: 'unknown-group', sentence: `“${step.name}” names a group that is not known.`, mend: 'Pick another group.' })];

/** Inputs of an action, a part or a policy that are not set, or of the wrong type. */
export function inputFindings(step: Step, given: Record<string, Operand>, wanted: Wanted[], anywhere: Places): Finding[] {
  return wanted.flatMap((input) => {
    const operand = own(given, input.name);
    if (!operand) return input.required ? [unset(step, `“${input.label}”`)] : [];
    if (isReference(operand))
      return [
        ...typeFindings(step, input.label, operand.ref, [input.type], anywhere),
        ...beyondAsked(step, input, operand.ref, anywhere),
        ...unknownOffered(step, input, operand.ref, anywhere),
      ];
    if (isEmpty(operand.literal)) return input.required ? [unset(step, `“${input.label}”`)] : [];
    if (isOfType(operand.literal, input.type)) return [...beyondStated(step, input, operand.literal), ...unknownStated(step, input, operand.literal)];
    return [
      stop(step, {
        code: 'wrong-type',
        sentence: `${input.label} of “${step.name}” needs a ${typeWords[input.type]} and something else is stated.`,
        mend: `State a ${typeWords[input.type]}, or pick a value.`,
      }),
    ];
  });
}

interface Wanted {
  name: string;
  label: string;
  type: ValueType;
  required: boolean;
  /** Of a number: more than which is refused. */
  most?: number | undefined;
  /** Of a text: all that is known where it goes. */
  oneOf?: readonly string[] | undefined;
  anyCase?: boolean | undefined;
}

/** What a system that knows these is not asked for: in the very letters, unless it takes small and large ones for the same. */
const isUnknown = ({ oneOf = [], anyCase }: Wanted, word: string): boolean =>
  anyCase ? !oneOf.some((known) => known.toLowerCase() === word.trim().toLowerCase()) : !oneOf.includes(word);
const fewOf = (oneOf: readonly string[]): string =>
  oneOf.length === 0
    ? 'none is known yet'
    : `${oneOf
        .slice(0, 5)
        .map((w) => `“${w}”`)
        .join(', ')}${oneOf.length > 5 ? ` or another of ${oneOf.length}` : ''}`;

/** A word that is stated, and that the system does not know. */
function unknownStated(step: Step, wanted: Wanted, stated: Value): Finding[] {
  const { label, oneOf } = wanted;
  if (oneOf === undefined || typeof stated !== 'string' || !isUnknown(wanted, stated)) return [];
  return [
    stop(step, {
      code: 'not-known-there',
      sentence: `${label} of “${step.name}” is “${stated}”, which is not known there (${fewOf(oneOf)}).`,
      mend: 'State one that is known.',
    }),
  ];
}

/** A choice that the form offers, and the system does not know: it would fail after everybody has agreed. */
function unknownOffered(step: Step, wanted: Wanted, ref: string, anywhere: Places): Finding[] {
  const { label, oneOf } = wanted;
  const place = anywhere.get(ref);
  const unknown = oneOf === undefined ? [] : (place?.options ?? []).filter((o) => isUnknown(wanted, o.value));
  if (oneOf === undefined || !place || unknown.length === 0) return [];
  return [
    stop(step, {
      code: 'not-known-there',
      sentence: `“${place.label}” offers ${unknown.map((o) => `“${o.label}”`).join(', ')}, which is not known where “${step.name}” takes it as ${label.toLowerCase()} (${fewOf(oneOf)}).`,
      mend: 'Offer only what is known there: the values of the choices are compared, not their labels.',
    }),
  ];
}

/** A number that is stated, and more than is taken. */
function beyondStated(step: Step, { label, most }: Wanted, stated: Value): Finding[] {
  if (most === undefined || !isNumber(stated) || compareNumbers(stated, most) <= 0) return [];
  return [
    stop(step, {
      code: 'beyond-allowed',
      sentence: `${label} of “${step.name}” is ${digitsOf(stated)}, and at most ${most} is taken.`,
      mend: `State ${most} or less.`,
    }),
  ];
}

/** A field of the form that lets people ask for more than is taken: it would fail after everybody has agreed. */
function beyondAsked(step: Step, { label, most }: Wanted, ref: string, anywhere: Places): Finding[] {
  const place = anywhere.get(ref);
  if (most === undefined || place?.type !== 'number' || !ref.startsWith('form.') || (place.max !== undefined && place.max <= most)) return [];
  return [
    stop(step, {
      code: 'beyond-allowed',
      sentence: `${label} of “${step.name}” is at most ${most}, and “${place.label}” in the form ${place.max === undefined ? 'has no most' : `may be ${place.max}`}.`,
      mend: `Let “${place.label}” be ${most} at most.`,
    }),
  ];
}

/** A picked value of the wrong type; a place that exists nowhere is found as an unknown reference instead. */
export function typeFindings(step: Step, setting: string, ref: string | undefined, want: ValueType[], anywhere: Places): Finding[] {
  const have = ref === undefined ? undefined : anywhere.get(ref)?.type;
  if (have === undefined || want.some((w) => fitsFor(w).includes(have))) return [];
  const list = rowType(have) ? '; put the step into a For each to do it for every row' : '';
  return [
    stop(step, {
      code: 'wrong-type',
      sentence: `${setting} of “${step.name}” needs a ${want.map((w) => typeWords[w]).join(' or a ')} and is given a ${typeWords[have]}.`,
      mend: `Pick a ${typeWords[want[0]!]}${list}.`,
    }),
  ];
}

/** What is wrong with the fields that `who` may correct at a step. */
export function correctsFindings<S extends Step & { corrects?: string[] | undefined }>(
  step: S,
  who: string,
  anywhere: Places,
  catalogue: Catalogue,
): Finding[] {
  return (step.corrects ?? []).flatMap((id): Finding[] => {
    const fix = { words: 'Take it off', edit: { replace: { ...step, corrects: step.corrects!.filter((c) => c !== id) } } };
    const place = anywhere.get(`form.${id}`);
    if (place?.type === 'file' || place?.type === 'files')
      return [
        stop(step, {
          code: 'wrong-type',
          sentence: `“${step.name}” lets ${who} correct “${place.label}”; files cannot be corrected, only asked for again.`,
          mend: 'Take it off the list, and ask for it again instead.',
          fix,
        }),
      ];
    if (place?.type === 'holding')
      return [
        stop(step, {
          code: 'wrong-type',
          sentence: `“${step.name}” lets ${who} correct “${place.label}”; what somebody holds is chosen by whoever asks.`,
          mend: 'Take it off the list.',
          fix,
        }),
      ];
    if (place) return [];
    const sentence = `“${step.name}” lets ${who} correct ${goneWords(`form.${id}`, catalogue)}.`;
    return [stop(step, { code: 'unknown-reference', sentence, mend: 'Take it off the list.', fix })];
  });
}
