import { ChevronDown, ChevronRight } from 'lucide-react';
import { useId, type ReactNode } from 'react';
import type { WebAction } from '../../core/systems/index.ts';

const counted = (n: number, one: string, many: string): string => `${n} ${n === 1 ? one : many}`;

/** What is to be known of an action before it is opened. */
function actionFacts(a: WebAction, others: WebAction[]): string[] {
  const about = a.about && others.find((o) => o.id === a.about?.of)?.label;
  return [
    a.inputs.length > 0 ? counted(a.inputs.length, 'input', 'inputs') : 'no input',
    a.outputs.length > 0 && counted(a.outputs.length, 'output', 'outputs'),
    a.later && 'answered later',
    a.gives && `held as ${a.gives.kind}`,
    about && `about what “${about}” gave`,
  ].filter((f) => typeof f === 'string');
}

/** An action in a line; its settings stand below it while it is open. */
export function ActionLine({
  action: a,
  others,
  wrong,
  open,
  onOpen,
  children,
}: {
  action: WebAction;
  others: WebAction[];
  /** How many things in it are to be put right. */
  wrong: number;
  open: boolean;
  onOpen: (open: boolean) => void;
  children: () => ReactNode;
}) {
  const id = useId();
  return (
    <>
      <button
        type="button"
        aria-expanded={open}
        aria-controls={open ? id : undefined}
        className="-ml-1 flex w-full cursor-pointer flex-wrap items-baseline gap-x-3 px-1 py-1 text-left hover:bg-sea-wash"
        onClick={() => onOpen(!open)}
      >
        {open ? (
          <ChevronDown size={14} aria-hidden className="shrink-0 self-center text-faint" />
        ) : (
          <ChevronRight size={14} aria-hidden className="shrink-0 self-center text-faint" />
        )}
        <span className="font-medium">{a.label || 'An action without a name'}</span>{' '}
        <span className="numbers text-sm text-faint">
          {a.method} {a.path}
        </span>{' '}
        <span className="w-full pl-[26px] text-sm text-faint">{actionFacts(a, others).join(' · ')}</span>
        {wrong > 0 && <span className="w-full pl-[26px] text-sm text-coral"> {counted(wrong, 'thing', 'things')} to put right</span>}
      </button>
      {open && (
        <div id={id} className="pt-2 pb-3 pl-4">
          {children()}
        </div>
      )}
    </>
  );
}
