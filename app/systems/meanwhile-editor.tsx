import type { Exchange, Later } from '../../core/systems/index.ts';
import { Checkbox } from '~/ui/checkbox';
import { Select } from '~/ui/select';
import { Captioned } from './captioned';

const freshCancel: NonNullable<Later['cancel']> = { method: 'POST', path: '/{job}/cancel' };
const freshWords: Exchange = {
  read: { path: '/{job}/comments', rows: '', id: '/id', text: '/text' },
  say: { path: '/{job}/comments', text: 'text', id: '/id' },
};
const methods = ['POST', 'PUT', 'PATCH', 'DELETE'] as const;
const readFields = [
  { field: 'rows', caption: 'Rows at', label: 'Where what was said stands', placeholder: '/comments' },
  { field: 'id', caption: 'Its name, at', label: 'Where what was said has its own name', placeholder: '/id' },
  { field: 'text', caption: 'Words, at', label: 'Where its words stand', placeholder: '/text' },
  { field: 'by', caption: 'Who, at', label: 'Where it says who said it', placeholder: 'not said' },
  { field: 'next', caption: 'Next page, at', label: 'Where the path of its next page stands', placeholder: 'one page' },
] as const;
const sayFields = [
  { field: 'text', caption: 'Words, as', label: 'The field of the body with the words', placeholder: 'text' },
  { field: 'by', caption: 'Who, as', label: 'The field of the body with who says it', placeholder: 'in the words' },
  { field: 'id', caption: 'Its name, at', label: 'Where the answer says what it is called', placeholder: '/id' },
] as const;

/** What goes on with something as long as a system has it under way: that it is called off, and what people say about it here and there. */
export function MeanwhileEditor({
  named,
  what,
  later,
  onChange,
}: {
  named: (field: string) => { name: string; problem: string | undefined };
  what: string;
  later: Later;
  onChange: (later: Later) => void;
}) {
  const { cancel, words } = later;
  const reads = (change: Partial<Exchange['read']>) => words && onChange({ ...later, words: { ...words, read: { ...words.read, ...change } } });
  const says = (change: Partial<NonNullable<Exchange['say']>>) =>
    words?.say && onChange({ ...later, words: { ...words, say: { ...words.say, ...change } } });
  return (
    <>
      <label className="flex gap-2">
        <Checkbox
          className="mt-0.5"
          checked={cancel !== undefined}
          onChecked={(on) => onChange({ ...later, cancel: on ? freshCancel : undefined })}
        />
        <span>
          It can be called off<span className="sr-only"> ({what})</span>
          <span className="block text-faint">Told when a request is withdrawn. How it stands is asked afterwards: it may be too late.</span>
        </span>
      </label>
      {cancel && (
        <div className="grid grid-cols-[110px_1fr] items-start gap-2 border-l pl-3">
          <div>
            <span aria-hidden className="text-faint">
              Method
            </span>
            <Select
              aria-label={`Method by which ${what} is called off`}
              value={cancel.method}
              onValue={(method) => onChange({ ...later, cancel: { ...cancel, method: methods.find((m) => m === method) ?? 'POST' } })}
            >
              {methods.map((m) => (
                <option key={m} value={m}>
                  {m}
                </option>
              ))}
            </Select>
          </div>
          <Captioned
            {...named('later.cancel.path')}
            caption="Path"
            className="numbers"
            label={`Path by which ${what} is called off`}
            value={cancel.path}
            onChange={(e) => onChange({ ...later, cancel: { ...cancel, path: e.target.value } })}
          />
        </div>
      )}
      <label className="flex gap-2">
        <Checkbox className="mt-0.5" checked={words !== undefined} onChecked={(on) => onChange({ ...later, words: on ? freshWords : undefined })} />
        <span>
          People there write about it<span className="sr-only"> ({what})</span>
          <span className="block text-faint">A step of a plan can then mirror what is said there and on the request, each word once.</span>
        </span>
      </label>
      {words && (
        <div className="space-y-2 border-l pl-3">
          <div className="grid grid-cols-3 items-start gap-2">
            <Captioned
              {...named('later.words.read.path')}
              caption="Read at (GET)"
              className="numbers"
              label={`Path at which what is said about ${what} is read`}
              value={words.read.path}
              onChange={(e) => reads({ path: e.target.value })}
            />
            {readFields.map(({ field, caption, label, placeholder }) => (
              <Captioned
                key={field}
                {...named(`later.words.read.${field}`)}
                caption={caption}
                className="numbers"
                label={`${label}, of ${what}: JSON Pointer`}
                placeholder={placeholder}
                value={words.read[field] ?? ''}
                onChange={(e) => reads({ [field]: e.target.value || (field === 'by' || field === 'next' ? undefined : '') })}
              />
            ))}
          </div>
          <label className="flex gap-2">
            <Checkbox
              className="mt-0.5"
              checked={words.say !== undefined}
              onChecked={(on) => onChange({ ...later, words: { ...words, say: on ? freshWords.say : undefined } })}
            />
            <span>
              They are written to<span className="sr-only"> (about {what})</span>
            </span>
          </label>
          {words.say && (
            <div className="grid grid-cols-[2fr_1fr_1fr_1fr] items-start gap-2">
              <Captioned
                {...named('later.words.say.path')}
                caption="Written at (POST)"
                className="numbers"
                label={`Path at which something is said about ${what}`}
                value={words.say.path}
                onChange={(e) => says({ path: e.target.value })}
              />
              {sayFields.map(({ field, caption, label, placeholder }) => (
                <Captioned
                  key={field}
                  {...named(`later.words.say.${field}`)}
                  caption={caption}
                  className="numbers"
                  label={`${label}, of ${what}`}
                  placeholder={placeholder}
                  value={words.say?.[field] ?? ''}
                  onChange={(e) => says({ [field]: e.target.value || (field === 'by' ? undefined : '') })}
                />
              ))}
            </div>
          )}
        </div>
      )}
    </>
  );
}
