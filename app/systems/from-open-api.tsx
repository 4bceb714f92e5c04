import { useId, useState } from 'react';
import { readJson } from '../../core/boundary/index.ts';
import { openApiActions, type Offered, type SystemList, type WebAction, type WebSystem } from '../../core/systems/index.ts';
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
  onTake: (actions: WebAction[], lists: SystemList[], more: Pick<Offered, 'name' | 'address'>) => void;
}) {
  const [read, setRead] = useState<Offered>();
  const [refused, setRefused] = useState<string>();
  const [chosen, setChosen] = useState<Set<string>>(new Set());
  const [took, setTook] = useState('');
  const id = useId();
  const known = new Set([...system.actions.map((a) => a.id), ...(system.lists ?? []).map((l) => listKey(l))]);
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
    const wanted = (key: string) => chosen.has(key) && !known.has(key);
    const actions = read.actions.filter((a) => wanted(a.id));
    const lists = read.lists.filter((l) => wanted(listKey(l)));
    onTake(actions, lists, read);
    setTook(`${countWords(actions.length, lists.length)} added. Look them over; nothing is saved yet.`);
    setRead(undefined);
  };
  const offer = (key: string) => ({
    isChosen: chosen.has(key) && !known.has(key),
    isThere: known.has(key),
    onChoose: (on: boolean) => setChosen(new Set(on ? [...chosen, key] : [...chosen].filter((x) => x !== key))),
  });
  const many = {
    actions: read?.actions.filter((a) => chosen.has(a.id)).length ?? 0,
    lists: read?.lists.filter((l) => chosen.has(listKey(l))).length ?? 0,
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
                <Offer key={a.id} {...offer(a.id)} label={a.label} address={`${a.method} ${a.path}`} says={a.later && 'answered later'} />
              ))}
              {read.lists.map((l) => (
                <Offer
                  key={listKey(l)}
                  {...offer(listKey(l))}
                  label={l.label}
                  address={`GET ${l.path}`}
                  says={`a list that says ${l.columns.map((c) => c.label.toLowerCase()).join(', ')}`}
                />
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
              Add {countWords(many.actions, many.lists).toLowerCase()}
            </Button>
          </>
        )}
      </div>
    </details>
  );
}

/** Lists and actions are chosen side by side, and may be called the same. */
const listKey = (list: SystemList): string => `list ${list.id}`;

function countWords(actions: number, lists: number): string {
  const of = (n: number, one: string) => (n === 0 ? [] : [n === 1 ? `one ${one}` : `${n} ${one}s`]);
  const words = [...of(actions, 'action'), ...of(lists, 'list')].join(' and ');
  return words === '' ? 'Nothing' : words.charAt(0).toUpperCase() + words.slice(1);
}

/** One thing that a system offers, to be taken or left. */
const Offer = (o: {
  label: string;
  address: string;
  says: string | undefined;
  isChosen: boolean;
  isThere: boolean;
  onChoose: (on: boolean) => void;
}) => (
  <li className="border-b py-1">
    <label className="flex items-start gap-2">
      <Checkbox className="mt-0.5" checked={o.isChosen} disabled={o.isThere} onChecked={o.onChoose} />
      <span className="min-w-0">
        {o.label} <span className="numbers text-sm break-all text-faint">{o.address}</span>
        {o.isThere && <span className="text-sm text-faint">, there already</span>}
        {o.says !== undefined && <span className="text-sm text-violet">, {o.says}</span>}
      </span>
    </label>
  </li>
);
