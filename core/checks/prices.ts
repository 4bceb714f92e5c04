import { mismatches } from '../conditions/index.ts';
import { referencesOfPrice, type PriceLine } from '../prices/index.ts';
import { isMoney } from '../values/index.ts';
import type { Finding, Places } from '../steps/index.ts';

/** What is missing or wrong in what an item costs; `places` are the values that are there when somebody asks. */
export function checkPrices(lines: readonly PriceLine[] | undefined, places: Places): Finding[] {
  return (lines ?? []).flatMap((l, i): Finding[] => {
    const name = l.label.trim() ? `“${l.label}”` : `Line ${i + 1} of the price`;
    const tell = (code: Finding['code'], sentence: string, mend: string): Finding => ({ code, severity: 'stops', price: l.id, sentence, mend });
    const gone = referencesOfPrice(l).filter((ref) => !places.has(ref));
    const type = (ref: string) => places.get(ref)?.type;
    return [
      ...(l.label.trim() ? [] : [tell('unset-setting', `${name} has no words.`, 'Say what is paid for.')]),
      ...(l.amount ? [] : [tell('unset-setting', `${name} has no amount.`, 'State a sum, or pick one from the answers.')]),
      ...(gone.length > 0
        ? [tell('unknown-reference', `${name} reads a value that the form does not ask any more.`, 'Pick another, or remove the line.')]
        : []),
      ...(l.amount && 'literal' in l.amount && !isMoney(l.amount.literal)
        ? [tell('unset-setting', `${name} has no amount.`, 'State a sum, or pick one from the answers.')]
        : []),
      ...(l.amount && 'ref' in l.amount && !gone.includes(l.amount.ref) && type(l.amount.ref) !== 'money'
        ? [tell('wrong-type', `${name} takes its amount from a value that is no sum of money.`, 'Pick a sum of money.')]
        : []),
      ...(l.times ?? []).flatMap((t) =>
        gone.includes(t.ref) || type(t.ref) === 'number'
          ? []
          : [tell('wrong-type', `${name} is multiplied by a value that is no number.`, 'Pick a number, or leave it out.')],
      ),
      ...(l.when && gone.length === 0
        ? mismatches(l.when, places).map((wrong) =>
            tell('wrong-type', `${name} counts under a condition that ${wrong}.`, 'Compare it with a value of its own kind.'),
          )
        : []),
    ];
  });
}
