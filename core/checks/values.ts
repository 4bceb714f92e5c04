import { goneWords, rowRef, stop, warn, type Catalogue, type Finding, type Place, type Places, type Reading, type Step } from '../steps/index.ts';
import { typeWords } from '../values/index.ts';
import type { Checked } from './family.ts';

/** Values that are not there, may not be there, or are secret where they would be shown. */
export const values = ({ doubtful, anywhere, catalogue }: Checked): Finding[] =>
  doubtful.map(({ step, read, place }) => readFinding(step, read, place, anywhere, catalogue));

function readFinding(step: Step, read: Reading, place: Place | undefined, anywhere: Places, catalogue: Catalogue): Finding {
  if (!place) {
    if (read.ref.startsWith('unbound.'))
      return stop(step, {
        code: 'unknown-reference',
        sentence: `${read.setting} of “${step.name}” used a value of the item it was copied from (${read.ref.slice(8)}); here it is bound to nothing.`,
        mend: 'Pick a value of this item.',
      });
    const later = anywhere.get(read.ref);
    const row = anywhere.get(rowRef(read.ref) ?? '');
    if (row && !later)
      return stop(step, {
        code: 'unknown-reference',
        sentence:
          row.type === 'row'
            ? `${read.setting} of “${step.name}” uses a column that the table of “${row.label}” has not.`
            : `${read.setting} of “${step.name}” uses “${read.ref.split('.').at(-1)}” of “${row.label}”, which is a ${typeWords[row.type]} and has no such part.`,
        mend: row.type === 'row' ? 'Pick a column that it has.' : 'Pick another value.',
      });
    return stop(step, {
      code: 'unknown-reference',
      sentence: later
        ? `${read.setting} of “${step.name}” uses “${later.label}” of “${later.source}”, which is not there at this point.`
        : `${read.setting} of “${step.name}” uses ${goneWords(read.ref, catalogue)}.`,
      mend: 'Pick a value that exists at this point.',
    });
  }
  if (place.secret) {
    return stop(step, {
      code: 'secret',
      sentence: `${read.setting} of “${step.name}” would show the secret “${place.label}” of “${place.source}”.`,
      mend: 'A secret can only go into a sealed note; take it out here.',
    });
  }
  const sentence = `${read.setting} of “${step.name}” uses “${place.label}” of “${place.source}”, which may have no value here.`;
  return (read.inText ? warn : stop)(step, {
    code: 'may-have-no-value',
    sentence,
    mend: place.ref.startsWith('form.')
      ? 'Make the field required, or do this only in a case where it has a value.'
      : 'Do this only in a case where it has a value.',
  });
}
