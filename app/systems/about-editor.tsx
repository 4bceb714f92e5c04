import type { WebAction } from '../../core/systems/index.ts';
import { Select } from '~/ui/select';

/** What an action does something to: something that another action of the system gave, which plans pick among what people hold. */
export function AboutEditor({
  named,
  action: a,
  others,
  onChange,
}: {
  named: (field: string) => { name: string; problem: string | undefined };
  action: WebAction;
  others: WebAction[];
  onChange: (about: WebAction['about']) => void;
}) {
  const what = a.label || 'this action';
  const giving = others.filter((o) => o.gives && o.id !== a.id);
  const days = [...a.outputs, ...a.inputs].filter((s) => s.type === 'date');
  const { about } = a;
  if (giving.length === 0 && !about) return null;
  const problem = named('about.of').problem ?? named('about.until').problem;
  return (
    <div className="flex flex-wrap items-center gap-2 text-sm">
      <Select
        className="w-auto!"
        aria-label={`What ${what} is about`}
        value={about?.of ?? ''}
        onValue={(v) => onChange(v ? { ...about, of: v } : undefined)}
      >
        <option value="">It is about nothing that is held already</option>
        {about && !giving.some((o) => o.id === about.of) && <option value={about.of}>About what is not given any more</option>}
        {giving.map((o) => (
          <option key={o.id} value={o.id}>
            {`About what “${o.label}” gave`}
          </option>
        ))}
      </Select>
      {about && days.length > 0 && (
        <Select
          className="w-auto!"
          aria-label={`Until when it is lent from then on after ${what}`}
          value={about.until ?? ''}
          onValue={(v) => onChange({ ...about, until: v || undefined })}
        >
          <option value="">lent as before</option>
          {days.map((d) => (
            <option key={d.name} value={d.name}>
              from then on until “{d.label || d.name}”
            </option>
          ))}
        </Select>
      )}
      {problem && <p className="text-coral">{problem}</p>}
    </div>
  );
}
