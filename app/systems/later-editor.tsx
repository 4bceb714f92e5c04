import type { ReactNode } from 'react';
import type { Later } from '../../core/systems/index.ts';
import { DurationInput } from '~/sheet/duration-input';
import { Checkbox } from '~/ui/checkbox';
import { Line } from '~/ui/line';
import { NumberField } from '~/ui/number-field';
import { Select } from '~/ui/select';
import { MeanwhileEditor } from './meanwhile-editor';

type Named = (field: string) => { name: string; problem: string | undefined };
const asking: NonNullable<Later['asked']> = { path: '/{job}', job: '/id', firstPauseSeconds: 5, mostPauseSeconds: 300 };
const fresh: Later = { within: 'PT4H', asked: asking, callsBack: false };
/** Words as they are typed in a line, parted by commas. */
const wordsIn = (line: string) =>
  line
    .split(',')
    .map((w) => w.trim())
    .filter(Boolean);

/** Whether an action is done when it is answered, or accepted and answered later, and how that answer comes. */
export function LaterEditor({
  named,
  what,
  later,
  onChange,
}: {
  named: Named;
  what: string;
  later: Later | undefined;
  onChange: (later: Later | undefined) => void;
}) {
  return (
    <div className="space-y-2 text-sm">
      <div className="flex flex-wrap items-center gap-2">
        <Select
          className="w-auto!"
          aria-label={`When ${what} is done`}
          value={later ? 'later' : 'once'}
          onValue={(v) => onChange(v === 'later' ? fresh : undefined)}
        >
          <option value="once">Done when it is answered</option>
          <option value="later">May be accepted first and answered later</option>
        </Select>
        {later && (
          <>
            <span aria-hidden>within</span>
            <DurationInput label={`Answer to ${what} within`} iso={later.within} min={1} onChange={(within) => onChange({ ...later, within })} />
          </>
        )}
      </div>
      {named('later.within').problem && <p className="text-coral">{named('later.within').problem}</p>}
      {later && <HowItComes named={named} what={what} later={later} onChange={onChange} />}
    </div>
  );
}

function HowItComes({ named, what, later, onChange }: { named: Named; what: string; later: Later; onChange: (later: Later) => void }) {
  const { asked, state } = later;
  const pointer = (field: 'progress' | 'cause', label: string) => (
    <Captioned caption={label}>
      <Line
        {...named(`later.${field}`)}
        className="numbers"
        label={`${label}, of ${what}: JSON Pointer`}
        value={later[field] ?? ''}
        onChange={(e) => onChange({ ...later, [field]: e.target.value || undefined })}
      />
    </Captioned>
  );
  return (
    <div className="space-y-2 border-l pl-3">
      <label className="flex gap-2">
        <Checkbox
          className="mt-0.5"
          checked={asked !== undefined}
          onChecked={(on) => onChange(on ? { ...later, asked: asking } : { ...later, asked: undefined, cancel: undefined, words: undefined })}
        />
        It is asked again how it stands, with growing pauses
      </label>
      {asked && (
        <div className="grid grid-cols-[1fr_1fr_90px_90px] items-start gap-2">
          <Captioned caption="Path (GET)">
            <Line
              {...named('later.asked.path')}
              className="numbers"
              label={`Path by which ${what} is asked about`}
              value={asked.path}
              onChange={(e) => onChange({ ...later, asked: { ...asked, path: e.target.value } })}
            />
          </Captioned>
          <Captioned caption="{job} stands at">
            <Line
              {...named('later.asked.job')}
              className="numbers"
              label={`What ${what} is called there: JSON Pointer`}
              value={asked.job}
              onChange={(e) => onChange({ ...later, asked: { ...asked, job: e.target.value } })}
            />
          </Captioned>
          {(['firstPauseSeconds', 'mostPauseSeconds'] as const).map((pause) => (
            <Captioned key={pause} caption={pause === 'firstPauseSeconds' ? 'First, s' : 'Longest, s'}>
              <NumberField
                aria-label={
                  pause === 'firstPauseSeconds'
                    ? `First pause before ${what} is asked about, seconds`
                    : `Longest pause before ${what} is asked about, seconds`
                }
                width="w-full"
                min={1}
                max={pause === 'firstPauseSeconds' ? 3600 : 86_400}
                value={asked[pause]}
                onValue={(n) => n !== undefined && onChange({ ...later, asked: { ...asked, [pause]: n } })}
              />
            </Captioned>
          ))}
        </div>
      )}
      {named('later.asked.mostPauseSeconds').problem && <p className="text-coral">{named('later.asked.mostPauseSeconds').problem}</p>}
      <label className="flex gap-2">
        <Checkbox className="mt-0.5" checked={later.callsBack} onChecked={(callsBack) => onChange({ ...later, callsBack })} />
        <span>
          It calls back, signed with the key of its answers
          <span className="block text-faint">It is told where in the header Nessmoor-Answer-To. The first answer counts, by whichever way.</span>
        </span>
      </label>
      {named('later.callsBack').problem && <p className="text-coral">{named('later.callsBack').problem}</p>}
      <div className="grid grid-cols-3 items-start gap-2">
        <Captioned caption="How it stands">
          <Line
            {...named('later.state.at')}
            className="numbers"
            label={`How ${what} stands: JSON Pointer`}
            placeholder="By the HTTP status"
            value={state?.at ?? ''}
            onChange={(e) => onChange({ ...later, state: e.target.value ? { done: [], failed: [], ...state, at: e.target.value } : undefined })}
          />
        </Captioned>
        {state && (
          <>
            <Captioned caption="Done, when it says">
              <Words
                name={named('later.state.done')}
                label={`Words that mean ${what} is done`}
                placeholder="done"
                words={state.done}
                onChange={(done) => onChange({ ...later, state: { ...state, done } })}
              />
            </Captioned>
            <Captioned caption="Failed, when it says">
              <Words
                name={named('later.state.failed')}
                label={`Words that mean ${what} has failed`}
                placeholder="failed"
                words={state.failed}
                onChange={(failed) => onChange({ ...later, state: { ...state, failed } })}
              />
            </Captioned>
          </>
        )}
      </div>
      <div className="grid grid-cols-2 items-start gap-2">
        {pointer('progress', 'What is going on')}
        {pointer('cause', 'Why it failed')}
      </div>
      {asked && <MeanwhileEditor named={named} what={what} later={later} onChange={onChange} />}
    </div>
  );
}

/** A field among several, with what it holds above it for those who see it; its own name says it to those who hear. */
const Captioned = ({ caption, children }: { caption: string; children: ReactNode }) => (
  <div className="min-w-0">
    <span aria-hidden className="text-faint">
      {caption}
    </span>
    {children}
  </div>
);

/** A few words in a line; what is typed stays as it is typed. */
function Words({
  name,
  label,
  placeholder,
  words,
  onChange,
}: {
  name: ReturnType<Named>;
  label: string;
  placeholder: string;
  words: string[];
  onChange: (words: string[]) => void;
}) {
  return (
    <Line {...name} label={label} placeholder={placeholder} defaultValue={words.join(', ')} onChange={(e) => onChange(wordsIn(e.target.value))} />
  );
}
