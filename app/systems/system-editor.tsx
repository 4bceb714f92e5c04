import { useEffect, useRef, useState, type RefObject } from 'react';
import { Form, useNavigation } from 'react-router';
import { WebSystem, type WebAction } from '../../core/systems/index.ts';
import type { Refusal } from '../../server/refusal.ts';
import { Button } from '~/ui/button';
import { Checkbox } from '~/ui/checkbox';
import { Labelled } from '~/ui/field';
import { freshKey } from '~/ui/fresh-key';
import { ListEditor } from '~/ui/list-editor';
import { NumberField } from '~/ui/number-field';
import { usePost } from '~/ui/post';
import { Refused } from '~/ui/problem';
import { ActionEditor } from './action-editor';
import { ActionLine } from './action-line';
import { FromOpenApi } from './from-open-api';
import { ListsEditor } from './lists-editor';

const blank: WebSystem = { name: '', address: 'https://', ownNetwork: false, timeoutMs: 10_000, actions: [] };

/** Registers a system, or changes one. */
export function SystemEditor({
  start = blank,
  hasSecret,
  hasAnswerKey,
  refusal,
}: {
  start: WebSystem | undefined;
  hasSecret: boolean;
  hasAnswerKey: boolean;
  refusal: Refusal | undefined;
}) {
  const [s, setS] = useState(start);
  const post = usePost(WebSystem, { refusal, document: s });
  const isNew = start === blank;
  const busy = useNavigation().formMethod === 'POST';
  const whole = useRef<HTMLFormElement>(null);
  const opened = useOpened(
    whole,
    s.actions.flatMap((a, at) => (post.wrongIn(`actions[${at}]`) > 0 ? [a.id] : [])),
    start.actions.length === 1 ? [start.actions[0]!.id] : [],
  );
  const setActions = (actions: WebAction[]) => setS({ ...s, actions });
  return (
    <Form
      method="post"
      ref={whole}
      {...post.form}
      onSubmit={(e) => {
        opened.onSent();
        post.form.onSubmit(e);
      }}
      className="max-w-3xl space-y-4"
    >
      <Refused sentence={post.sentence} />
      <input type="hidden" name="definition" value={JSON.stringify(s)} />
      <div className="grid gap-4 sm:grid-cols-2">
        <Labelled label="Name" required problem={post.problem('name')}>
          {(ids) => (
            <input {...ids} name="name" className="input" maxLength={60} value={s.name} onChange={(e) => setS({ ...s, name: e.target.value })} />
          )}
        </Labelled>
        <Labelled label="Address" required problem={post.problem('address')}>
          {(ids) => (
            <input {...ids} name="address" className="input numbers" value={s.address} onChange={(e) => setS({ ...s, address: e.target.value })} />
          )}
        </Labelled>
        <Labelled
          label="Secret"
          help={hasSecret ? 'One is kept, sealed. Left empty it stays.' : 'Goes out as a bearer token; kept sealed.'}
          problem={post.problem('secret')}
        >
          {(ids) => <input {...ids} name="secret" className="input" type="password" autoComplete="new-password" />}
        </Labelled>
        <Labelled
          label="Key of its answers"
          help={hasAnswerKey ? 'One is kept, sealed. Left empty it stays.' : 'Signs what it calls back (RFC 9421, hmac-sha256); kept sealed.'}
          problem={post.problem('answerKey')}
        >
          {(ids) => <input {...ids} name="answerKey" className="input" type="password" autoComplete="new-password" />}
        </Labelled>
        <Labelled label="Waits for an answer, seconds">
          {(ids) => (
            <NumberField
              id={ids.id}
              width="w-full"
              min={1}
              max={120}
              value={s.timeoutMs / 1000}
              onValue={(seconds) => seconds !== undefined && setS({ ...s, timeoutMs: Math.round(seconds * 1000) })}
            />
          )}
        </Labelled>
      </div>
      <label className="flex gap-2">
        <Checkbox className="mt-0.5" checked={s.ownNetwork} onChecked={(on) => setS({ ...s, ownNetwork: on })} />
        <span>
          It stands in our own network
          <span className="block text-sm text-faint">Without this, private and loopback addresses are refused.</span>
        </span>
      </label>
      <h2 className="font-medium">Actions</h2>
      <FromOpenApi
        system={s}
        onTake={(actions, lists, more) =>
          setS({
            ...s,
            actions: [...s.actions, ...actions],
            ...(lists.length > 0 && { lists: [...(s.lists ?? []), ...lists] }),
            ...(s.name === '' && more.name && { name: more.name }),
            ...(s.address === blank.address && more.address && { address: more.address }),
          })
        }
      />
      {s.actions.length === 0 && <p className="text-sm text-faint">None yet.</p>}
      <ListEditor
        rows={s.actions}
        keyOf={(a) => a.id}
        nameOf={(a) => a.label || 'this action'}
        addLabel="Add an action"
        make={(): WebAction => ({ id: freshKey('action'), label: '', method: 'POST', path: '/', inputs: [], outputs: [] })}
        onChange={setActions}
        onAdd={(a) => {
          opened.toggle(a.id, true);
          setActions([...s.actions, a]);
        }}
        ruled
      >
        {({ row, at, set }) => (
          <ActionLine
            action={row}
            others={s.actions}
            wrong={post.wrongIn(`actions[${at}]`)}
            open={opened.has(row.id)}
            onOpen={(open) => opened.toggle(row.id, open)}
          >
            {() => <ActionEditor at={`actions[${at}]`} problem={post.problem} action={row} others={s.actions} onChange={(next) => set(next)} />}
          </ActionLine>
        )}
      </ListEditor>
      <h2 className="font-medium">Lists</h2>
      <p className="text-sm text-faint">
        What it lists that reference tables can be read from, such as what it has to give and at what price. Whoever may see such a table sees what
        stands there.
      </p>
      {post.problem('lists') && <p className="text-sm text-coral">{post.problem('lists')}</p>}
      <ListsEditor lists={s.lists ?? []} problem={post.problem} onChange={(lists) => setS({ ...s, lists })} />
      <div className="border-t pt-4">
        <Button type="submit" weight="main" disabled={busy}>
          {isNew ? 'Register this system' : 'Save this system'}
        </Button>
      </div>
    </Form>
  );
}

/** Which actions are open: one in which something is wrong is, and the first that is wrong has the keyboard once it can be seen. */
function useOpened(whole: RefObject<HTMLFormElement | null>, wrong: string[], first: string[]) {
  const [opened, setOpened] = useState<ReadonlySet<string>>(new Set(first));
  const [brought, setBrought] = useState(0);
  if (wrong.some((id) => !opened.has(id))) {
    setOpened(new Set([...opened, ...wrong]));
    setBrought(brought + 1);
  }
  // Whoever types goes on where they are; it is after sending that the first that is wrong is gone to.
  const sent = useRef(false);
  useEffect(() => {
    if (sent.current && brought > 0) whole.current?.querySelector<HTMLElement>('[aria-invalid="true"]')?.focus();
    sent.current = false;
  }, [brought, whole]);
  return {
    onSent: () => {
      sent.current = true;
    },
    has: (id: string) => opened.has(id),
    toggle: (id: string, open: boolean) =>
      setOpened((were) => {
        const next = new Set(were);
        if (open) next.add(id);
        else next.delete(id);
        return next;
      }),
  };
}
