import { useState } from 'react';
import type { Field } from '../../core/forms/index.ts';
import type { ItemDefinition } from '../../core/items/index.ts';
import type { Catalogue, Gate, PlainGate } from '../../core/plans/index.ts';
import { freshGate, gatesDefinition, movePlaces, type TicketKind } from '../../core/tickets/index.ts';
import { DraftedProvider, type Drafted } from '~/sheet/draft-editor';
import { GateAgreement, type GateWords } from '~/sheet/gate-agreement';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';

const words: GateWords = {
  own: 'If whoever reported it, or wants it moved, is among them',
  allow: 'Let them decide on their own ticket',
  fails: 'It stays where it is',
};

/** A gate is whole without what only the plan of an item has. */
const plain = ({ approved: _, declined: __, lapsed: ___, corrects: ____, sendBack: _____, ...gate }: Gate): PlainGate => gate;

/** Who has to agree before a ticket makes a move; the same settings as those of a gate in a plan. */
export function MoveGate({
  kind,
  gate,
  catalogue,
  learn,
  onChange,
}: {
  kind: TicketKind;
  gate: PlainGate | undefined;
  catalogue: Catalogue;
  learn: Drafted['learn'];
  /** `asks`: fields that the gate wants asked of whoever reports, besides those there are. */
  onChange: (gate: PlainGate | undefined, asks: Field[]) => void;
}) {
  const [asked] = useState(() => freshGate('Somebody agrees'));
  if (!gate)
    return (
      <div className="flex flex-wrap items-center gap-3">
        <span>nobody</span>
        <Button onClick={() => onChange({ ...asked, nobody: { then: 'fail' } }, [])}>Let somebody agree first</Button>
      </div>
    );
  const draft: ItemDefinition = { ...gatesDefinition(kind), plan: { steps: [gate] } };
  const change = (next: ItemDefinition) => {
    const known = new Set(draft.form.fields.map((f) => f.id));
    // The plan of this draft is the gate and nothing else.
    onChange(
      plain(next.plan.steps[0] as Gate),
      next.form.fields.filter((f) => !known.has(f.id)),
    );
  };
  const onGate = (next: PlainGate) => onChange(next, []);
  return (
    <DraftedProvider value={{ draft, change, catalogue, learn }}>
      <div className="max-w-xl space-y-4 border-l-3 border-ochre pl-4">
        <Labelled label="What it is called, to those who are asked">
          {(ids) => (
            <input {...ids} className="input" maxLength={120} value={gate.name} onChange={(e) => onGate({ ...gate, name: e.target.value })} />
          )}
        </Labelled>
        <GateAgreement step={gate} places={[...movePlaces(kind, catalogue).values()]} words={words} onEdit={(step) => onGate(plain(step))} />
        <p className="text-sm text-faint">Until they have agreed it stays where it is. If they do not, it stays, and the desk is told why.</p>
        <Button weight="decline" onClick={() => onChange(undefined, [])}>
          Take the gate away
        </Button>
      </div>
    </DraftedProvider>
  );
}
