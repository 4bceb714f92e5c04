import { readExpression, unlikeSides } from '../../expressions/index.ts';
import { partsOfType, typeWords } from '../../values/index.ts';
import { stop } from '../finding.ts';
import { output } from '../place.ts';
import type { Room } from '../room.ts';
import { ended, fail, putOutputs, read } from '../run/context.ts';
import { WorkOut } from './settings.ts';

/** The room of this kind; `room.ts` says what each member means. */
export const workOut: Room<WorkOut> = {
  verb: 'Work out',
  does: 'Compute a value from others',
  alsoCalled: ['calculate', 'compute', 'formula', 'value', 'result'],
  schema: () => WorkOut,
  fresh: () => ({ feel: '', type: 'number' }),
  outputs: (step) => [output(step, 'value', 'Result', step.type, true)],
  reads: (step) => {
    const parsed = readExpression(step.feel);
    return parsed.ok ? parsed.refs.map((ref) => ({ ref, setting: 'Expression', needed: parsed.needs.has(ref) })) : [];
  },
  lacks: (step, anywhere) => {
    const parsed = readExpression(step.feel);
    const wrong = (sentence: string) =>
      stop(step, { code: 'wrong-expression', sentence: `“${step.name}”: ${sentence}`, mend: 'Correct the expression.' });
    if (!parsed.ok) return [wrong(parsed.sentence)];
    const parts = parsed.parted.flatMap(({ ref, part }) => {
      const place = anywhere.get(ref);
      return place && !partsOfType(place.type).includes(part) ? [wrong(`“${place.label}” is a ${typeWords[place.type]} and has no ${part}.`)] : [];
    });
    const sides = unlikeSides(step.feel, (ref) => anywhere.get(ref)?.type).map(({ sides: [left, right], day }) =>
      wrong(
        day
          ? `“${anywhere.get(day.ref)?.label ?? day.ref}” is a text in an expression and is compared with a ${day.as}, which never goes. Write ${day.as}(${day.ref}).`
          : `A ${left} is compared with a ${right}, which never goes.`,
      ),
    );
    return [...parts, ...sides];
  },
  steers: true,
  party: () => 'The run itself',
  sentence: (step) => `Work out ${step.feel.trim() || 'nothing yet'}.`,
  settle: (context, step, activity, scope) => {
    const result = context.workOut(step.feel, step.type, (ref) => read(context, scope, ref));
    if (!result.ok) return fail(context, scope, activity, `“${step.name}”: ${result.sentence}`);
    const outputs = { value: result.value };
    putOutputs(scope, step.id, outputs);
    return ended(context, activity, 'done', outputs);
  },
  bpmn: (step, from, write) => write.simple('bpmn:ScriptTask', step, from, { scriptFormat: write.feelLanguage, script: step.feel }),
};
