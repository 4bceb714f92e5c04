import { ArrowDown, ArrowUp, Copy, Trash2, X } from 'lucide-react';
import type { ReactNode } from 'react';
import {
  branches,
  kindWords,
  replaceStep,
  requesterNames,
  roomOf,
  type Finding,
  type Plan,
  type Place,
  type Run,
  type Step,
  type Wrapping,
} from '../../core/plans/index.ts';
import { Button } from '~/ui/button';
import { lookOf, type Edit } from '~/steps';
import { Labelled } from '~/ui/field';
import { NameField } from '~/ui/name-field';
import { Contained } from '~/ui/trouble';
import { ExpectedTime } from './expected-time';
import { FindingLine } from './finding-line';
import type { SheetActs } from './sheet-acts';
import { Select } from '~/ui/select';

/** The slip of a step: everything it can be told, beside the sheet. */
export function StepSlip({
  plan,
  step,
  run,
  places,
  placesInside,
  findings,
  acts,
  onEdit,
  onMend,
  onClose,
}: {
  plan: Plan;
  step: Step;
  /** The steps that are chosen with it, itself among them. */
  run: Run;
  /** What it can read; nothing while that is being worked out. */
  places: Place[] | undefined;
  /** After its body has run: what a repeat's condition can read. */
  placesInside: Place[];
  findings: Finding[];
  acts: SheetActs;
  onEdit: Edit;
  onMend: (finding: Finding) => void;
  onClose: () => void;
}) {
  const { Settings } = lookOf(step);
  return (
    <aside
      aria-label={`Settings of “${step.name}”`}
      className="min-w-0 overflow-y-auto border-t bg-paper lg:border-t-0 lg:border-l"
      onKeyDown={(e) => {
        // An editor of formatted text takes every Escape for heard, and does nothing with it.
        const heard = e.defaultPrevented && !(e.target as HTMLElement).isContentEditable;
        if (e.key === 'Escape' && !heard) onClose();
      }}
    >
      <div className="flex items-center gap-1 border-b px-5 py-2">
        <h2 className="font-medium">{kindWords[step.kind].verb}</h2>
        <span className="ml-auto flex">
          <SlipAct label="Move up (Alt ↑)" onClick={() => acts.move([step.id], 'up')}>
            <ArrowUp size={15} aria-hidden />
          </SlipAct>
          <SlipAct label="Move down (Alt ↓)" onClick={() => acts.move([step.id], 'down')}>
            <ArrowDown size={15} aria-hidden />
          </SlipAct>
          <SlipAct label="Duplicate (Ctrl D)" onClick={() => acts.duplicate([step.id])}>
            <Copy size={15} aria-hidden />
          </SlipAct>
          <SlipAct label="Remove (Delete)" onClick={() => acts.remove([step.id])}>
            <Trash2 size={15} aria-hidden />
          </SlipAct>
          <SlipAct label="Close (Esc)" onClick={onClose}>
            <X size={15} aria-hidden />
          </SlipAct>
        </span>
      </div>
      <div className="space-y-5 px-5 py-4">
        {findings.length > 0 && (
          <ul aria-label="Findings" className="space-y-2">
            {findings.map((f, i) => (
              <FindingLine key={i} finding={f} onMend={onMend} />
            ))}
          </ul>
        )}
        <Labelled label="Name" required>
          {(ids) => (
            <NameField
              {...ids}
              data-slip-first={step.id}
              value={step.name}
              maxLength={120}
              onChange={(e) => e.target.value.trim() !== '' && onEdit({ ...step, name: e.target.value }, 'the name')}
            />
          )}
        </Labelled>
        {!roomOf(step).steers && (
          <Labelled
            label="Name for the requester"
            help={`Left empty they read: “${requesterNames(replaceStep(plan, { ...step, forRequester: undefined })).get(step.id) ?? ''}”.`}
          >
            {(ids) => (
              <NameField
                {...ids}
                value={step.forRequester ?? ''}
                maxLength={80}
                onChange={(e) =>
                  onEdit({ ...step, forRequester: e.target.value.trim() === '' ? undefined : e.target.value }, 'the name for the requester')
                }
              />
            )}
          </Labelled>
        )}
        <Contained what="These settings" of={step.id}>
          {places && <Settings key={step.id} step={step} places={places} placesInside={placesInside} onEdit={onEdit} />}
        </Contained>
        {places && !roomOf(step).minutes && (
          <ExpectedTime value={step.expected} onChange={(expected) => onEdit({ ...step, expected }, 'the expected time')} />
        )}
        {places && <WrapMenu step={step} run={run} acts={acts} />}
      </div>
    </aside>
  );
}

const wrappings: { kind: Wrapping; words: string }[] = [
  { kind: 'choose', words: 'In a choice' },
  { kind: 'together', words: 'Side by side with another branch' },
  { kind: 'forEach', words: 'In a For each, once per row of a list' },
  { kind: 'repeat', words: 'In a Repeat' },
  { kind: 'guard', words: 'In a Guard' },
];

/** Puts the step into a compound one, or takes a compound one away from around what it holds. */
function WrapMenu({ step, run, acts }: { step: Step; run: Run; acts: SheetActs }) {
  const holds = !roomOf(step).isLock && branches(step).length > 0;
  return (
    <fieldset className="border-t pt-3">
      <legend className="sr-only">Wrap and unwrap</legend>
      <Select
        aria-label={run.length > 1 ? `Wrap these ${run.length} steps` : 'Wrap this step'}
        value=""
        onValue={(v) => v && acts.wrap(run, v as Wrapping)}
      >
        <option value="">{run.length > 1 ? `Wrap these ${run.length} steps …` : 'Wrap this step …'}</option>
        {wrappings.map((w) => (
          <option key={w.kind} value={w.kind}>
            {w.words}
          </option>
        ))}
      </Select>
      {holds && (
        <Button className="mt-2" onClick={() => acts.unwrap(step.id)}>
          Unwrap: keep its steps, without the {kindWords[step.kind].verb}
        </Button>
      )}
    </fieldset>
  );
}

function SlipAct({ label, onClick, children }: { label: string; onClick: () => void; children: ReactNode }) {
  return (
    <Button weight="quiet" className="size-8 px-0!" data-tip={label} onClick={onClick}>
      {children}
      <span className="sr-only">{label}</span>
    </Button>
  );
}
