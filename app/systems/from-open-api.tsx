import { useId, useState } from 'react';
import { readJson } from '../../core/boundary/index.ts';
import { openApiActions, type Offered, type WebAction, type WebSystem } from '../../core/systems/index.ts';
import { Button } from '~/ui/button';
import { Checkbox } from '~/ui/checkbox';
import { Refused } from '~/ui/problem';

/** More than this is no description of a system. */
const mostBytes = 2_000_000;

/** Reads what a system can do from its OpenAPI document, here in the browser; what is chosen of it joins the actions there are. */
export function FromOpenApi({
  system,
  onTake,
}: {
  system: WebSystem;
  onTake: (actions: WebAction[], more: Pick<Offered, 'name' | 'address'>) => void;
}) {
  const [read, setRead] = useState<Offered>();
  const [refused, setRefused] = useState<string>();
  const [chosen, setChosen] = useState<Set<string>>(new Set());
  const [took, setTook] = useState('');
  const id = useId();
  const known = new Set(system.actions.map((a) => a.id));
  const open = async (file: File | undefined) => {
    setTook('');
    setRead(undefined);
    if (!file) return;
    if (file.size > mostBytes) return setRefused('The file has more than 2 MB; that is no description of a system.');
    const json = readJson(await file.text());
    const offered = json.ok ? openApiActions(json.value) : { ok: false as const, sentence: `This is no JSON: ${json.sentence}` };
    if (!offered.ok) return setRefused(offered.sentence);
    setRefused(undefined);
    setRead(offered.offered);
    setChosen(new Set(offered.offered.actions.filter((a) => a.method !== 'GET' && !known.has(a.id)).map((a) => a.id)));
  };
  const take = () => {
    if (!read) return;
    const taken = read.actions.filter((a) => chosen.has(a.id) && !known.has(a.id));
    onTake(taken, read);
    setTook(`${taken.length === 1 ? 'One action' : `${taken.length} actions`} added. Look them over; nothing is saved yet.`);
    setRead(undefined);
  };
  return (
    <details className="border-l-2 border-violet pl-3">
      <summary className="cursor-pointer text-sea">Read them from an OpenAPI document …</summary>
      <div className="mt-2 space-y-2">
        <label htmlFor={id} className="block text-sm">
          OpenAPI 3.0 or 3.1, as a JSON file
        </label>
        <input id={id} type="file" accept=".json,application/json" className="file-input" onChange={(e) => void open(e.currentTarget.files?.[0])} />
        <Refused sentence={refused} />
        <p role="status" className="text-moss empty:hidden">
          {took}
        </p>
        {read && (
          <>
            <ul aria-label={`What ${read.name || 'it'} offers`} className="border-t">
              {read.actions.map((a) => (
                <li key={a.id} className="border-b py-1">
                  <label className="flex items-start gap-2">
                    <Checkbox
                      className="mt-0.5"
                      checked={chosen.has(a.id) && !known.has(a.id)}
                      disabled={known.has(a.id)}
                      onChecked={(on) => setChosen(new Set(on ? [...chosen, a.id] : [...chosen].filter((x) => x !== a.id)))}
                    />
                    <span className="min-w-0">
                      {a.label}{' '}
                      <span className="numbers text-sm break-all text-faint">
                        {a.method} {a.path}
                      </span>
                      {known.has(a.id) && <span className="text-sm text-faint">, there already</span>}
                      {a.later && <span className="text-sm text-violet">, answered later</span>}
                    </span>
                  </label>
                </li>
              ))}
            </ul>
            {read.left.length > 0 && (
              <div className="text-sm">
                <p className="text-ochre">{read.left.length === 1 ? 'One cannot be taken:' : `${read.left.length} cannot be taken:`}</p>
                <ul>
                  {read.left.slice(0, 20).map((l, i) => (
                    <li key={i}>
                      {l.what}: <span className="text-faint">{l.why}</span>
                    </li>
                  ))}
                </ul>
              </div>
            )}
            <Button onClick={take} disabled={chosen.size === 0}>
              {chosen.size === 1 ? 'Add this action' : `Add these ${chosen.size} actions`}
            </Button>
          </>
        )}
      </div>
    </details>
  );
}
