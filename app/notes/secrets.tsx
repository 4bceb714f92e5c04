import { useState } from 'react';
import { noteWords } from './note-words';
import { Button } from '~/ui/button';
import { useHydrated } from '~/ui/choices';

/** What a note says, each to be taken along by one press. It stands here as long as the page does. */
export function Secrets({ secrets }: { secrets: { label: string; value: string }[] }) {
  return (
    <dl aria-label="What the note says" className="my-4 border-y">
      {secrets.map((s) => (
        <div key={s.label} className="border-b py-3 last:border-b-0">
          <dt className="text-sm text-faint">{s.label}</dt>
          <dd className="flex flex-wrap items-center gap-3">
            <code className="numbers text-lg break-all">{s.value}</code>
            <Copy label={s.label} value={s.value} />
          </dd>
        </div>
      ))}
    </dl>
  );
}

function Copy({ label, value }: { label: string; value: string }) {
  const [said, setSaid] = useState('');
  const hydrated = useHydrated();
  const copy = () =>
    void navigator.clipboard.writeText(value).then(
      () => setSaid('It is on the clipboard.'),
      () => setSaid('It could not be copied: mark it and copy it yourself.'),
    );
  if (!hydrated) return null;
  return (
    <>
      <Button weight="quiet" onClick={copy}>
        Copy<span className="sr-only"> {noteWords([label])}</span>
      </Button>
      <span role="status" className="text-sm text-faint">
        {said}
      </span>
    </>
  );
}
