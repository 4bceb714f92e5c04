import { Monitor, Smartphone } from 'lucide-react';
import { clsx } from 'clsx';
import { useEffect, useState } from 'react';
import { useFetcher } from 'react-router';
import { begunAnswers, brokenRules, nothingKnown, validateAnswers, type Answers, type FormTest } from '../../core/forms/index.ts';
import { useEditor } from '~/sheet/draft-editor';
import type { loader } from '~/routes/workshop/preview';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { FormFields } from '~/ui/form-fields';
import { freshKey } from '~/ui/fresh-key';
import { Foreseen } from '~/ui/foreseen';
import { Picker, type Chosen } from '~/ui/picker';
import { useToday } from '~/ui/now';
import { useAskedOn, useDeskOfAll } from './use-asked-on';
import { RadioGroup } from '~/ui/radio-group';

/**
 * The form as somebody will see it, to be tried out: on a wide window or a phone, as whoever designs it or as anybody else, with
 * what it costs and who would have to agree. Nothing typed here is kept, unless a test is made of it.
 */
export function FormPreview({ typed, onTyped }: { typed: Answers; onTyped: (answers: Answers) => void }) {
  const { draft, change, id, kind, save, version } = useEditor();
  const [names, setNames] = useState<Record<string, string>>({});
  const [as, setAs] = useState<Chosen>();
  const [phone, setPhone] = useState(false);
  const today = useToday();
  const desk = useDeskOfAll();
  const { load, data } = useFetcher<typeof loader>();
  // What it begins with for somebody, and what the answers lead to, as the draft is kept.
  const key = JSON.stringify(typed);
  const kept = save.is === 'saved';
  useEffect(() => {
    if (!kept || kind !== 'item') return;
    const wait = setTimeout(() => void load(`/workshop/items/${id}/preview?person=${as?.id ?? ''}&answers=${encodeURIComponent(key)}`), 250);
    return () => clearTimeout(wait);
  }, [id, kind, kept, version, as, key, load]);
  const on = useAskedOn(data?.hours);
  const answers = { ...begunAnswers(draft.form, nothingKnown), ...data?.begins, ...typed };
  const problems = [...(data?.foreseen.taken ?? []), ...brokenRules(draft.form, answers, on, true)];
  const keepTest = () => {
    const held = validateAnswers(draft.form, answers, undefined, undefined, { today, desk });
    const first = held.ok ? undefined : held.problems[0];
    const tests = draft.form.tests ?? [];
    const test: FormTest = {
      id: freshKey('test'),
      name: first ? `Refused ${tests.length + 1}` : `Taken ${tests.length + 1}`,
      answers,
      ...(draft.form.rules?.some((r) => r.apart && !r.apart.after) && { on: today }),
      ...(first && { refused: first }),
    };
    change({ ...draft, form: { ...draft.form, tests: [...tests, test] } }, 'Keep a test of the form');
  };
  return (
    <aside aria-label="Preview" className="border-t bg-paper px-5 py-5 lg:border-t-0 lg:border-l">
      <div className="mb-4 space-y-2 text-sm">
        <div className="flex items-center justify-between gap-2">
          <h2 className="text-faint">As they see it</h2>
          <span className="flex items-center gap-1 text-faint">
            {phone ? <Smartphone size={14} aria-hidden /> : <Monitor size={14} aria-hidden />}
            <RadioGroup
              aria-label="Seen on"
              value={phone ? 'phone' : 'wide'}
              options={[
                { value: 'wide', label: 'Wide' },
                { value: 'phone', label: 'Phone' },
              ]}
              onValue={(v) => setPhone(v === 'phone')}
            />
          </span>
        </div>
        {kind === 'item' && (
          <Labelled label="Seen by" help="Yourself, while nobody is picked.">
            {(ids) => <Picker {...ids} kind="person" chosen={as} onChoose={setAs} />}
          </Labelled>
        )}
      </div>
      <div className={clsx(phone && 'mx-auto max-w-[358px] border bg-sheet p-4')}>
        <p className="font-serif text-xl">{draft.name}</p>
        <p className="mb-5 text-faint">{draft.summary}</p>
        <FormFields
          form={draft.form}
          answers={answers}
          names={{ ...data?.names, ...data?.foreseen.names, ...names }}
          problems={Object.fromEntries(problems.map((p) => [p.field, p.sentence]))}
          onChange={(field, value, chosen) => {
            onTyped({ ...typed, [field]: value });
            if (chosen) setNames((n) => ({ ...n, [chosen.id]: chosen.name }));
          }}
        />
      </div>
      <div className="mt-5 flex flex-wrap gap-2">
        <Button onClick={keepTest}>Keep these answers as a test</Button>
        {Object.keys(typed).length > 0 && (
          <Button weight="quiet" onClick={() => onTyped({})}>
            Begin anew
          </Button>
        )}
      </div>
      {kind === 'item' && data && (
        <div className="mt-6 text-sm">
          <Foreseen agreed={data.foreseen.agreed} price={data.foreseen.price} />
        </div>
      )}
    </aside>
  );
}
