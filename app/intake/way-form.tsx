import { useState } from 'react';
import { Form, useNavigation } from 'react-router';
import type { IntakeWay } from '../../core/intake/index.ts';
import type { Refusal } from '../../server/refusal.ts';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { Refused } from '~/ui/problem';
import { Select } from '~/ui/select';

/** A kind of ticket that can be opened, with what it can be about. */
export interface KindChoice {
  id: string;
  name: string;
  categories: string[];
}

/** What is asked of a way in. What was typed stays when it is refused. */
export function WayForm({
  way,
  kept,
  kinds,
  domain,
  refusal,
}: {
  way: IntakeWay;
  /** Of one that is kept: which, and as it was read. */
  kept?: { id: string; version: number };
  kinds: KindChoice[];
  domain: string;
  refusal: Refusal | undefined;
}) {
  const [kind, setKind] = useState(way.kind);
  const busy = useNavigation().formMethod === 'POST';
  const problem = (field: string) => refusal?.problems?.find((p) => p.field === field)?.sentence;
  const categories = kinds.find((k) => k.id === kind)?.categories ?? [];
  const mail = way.via === 'mail';
  return (
    <Form method="post" noValidate className="max-w-2xl space-y-3 py-3">
      <input type="hidden" name="via" value={way.via} />
      {kept && <input type="hidden" name="id" value={kept.id} />}
      {kept && <input type="hidden" name="version" value={kept.version} />}
      <Refused sentence={refusal?.problems?.length ? undefined : refusal?.sentence} />
      <Labelled label={mail ? 'Address' : 'Channel'} problem={problem('name')}>
        {(ids) => (
          <span className="flex items-center gap-1.5">
            {!mail && <span className="numbers text-faint">#</span>}
            <input {...ids} name="name" className="input w-56" maxLength={100} defaultValue={way.name} />
            {mail && <span className="numbers text-faint">@{domain}</span>}
          </span>
        )}
      </Labelled>
      <div className="grid gap-3 sm:grid-cols-2">
        <Labelled label="It opens" problem={problem('kind')}>
          {(ids) => (
            <Select {...ids} name="kind" value={kind} onValue={setKind}>
              {kinds.map((k) => (
                <option key={k.id} value={k.id}>
                  {k.name}
                </option>
              ))}
            </Select>
          )}
        </Labelled>
        <Labelled label="About" problem={problem('category')}>
          {(ids) => (
            <Select key={kind} {...ids} name="category" defaultValue={categories.includes(way.category ?? '') ? (way.category ?? '') : ''}>
              <option value="">What the desk finds</option>
              {categories.map((c) => (
                <option key={c} value={c}>
                  {c}
                </option>
              ))}
            </Select>
          )}
        </Labelled>
      </div>
      {way.via === 'mail' && (
        <div className="grid gap-3 sm:grid-cols-2">
          <Labelled label="From people whom nobody here knows">
            {(ids) => (
              <Select {...ids} name="unknown" defaultValue={way.unknown}>
                <option value="refuse">Refused, with a sentence</option>
                <option value="take">Taken, as from outside</option>
              </Select>
            )}
          </Labelled>
          <Labelled label="What programs send on their own">
            {(ids) => (
              <Select {...ids} name="automatic" defaultValue={way.automatic}>
                <option value="leave">Refused, with a sentence</option>
                <option value="take">Opens a ticket, and is not answered</option>
              </Select>
            )}
          </Labelled>
        </div>
      )}
      <div className="flex gap-3">
        <Button type="submit" name="act" value={kept ? 'change' : 'open'} weight={kept ? 'plain' : 'main'} disabled={busy}>
          {kept ? 'Keep it so' : mail ? 'Take in mail to it' : 'Take in what is said there'}
        </Button>
        {kept && (
          <Button type="submit" name="act" value="close" disabled={busy}>
            {mail ? 'Close this address' : 'Close this channel'}
          </Button>
        )}
      </div>
    </Form>
  );
}
