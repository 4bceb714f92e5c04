import type { ImportPreview, TableDefinition } from '../../core/tables/index.ts';
import { StateMark } from '~/ui/state-mark';

const lines = (n: number) => `${n.toLocaleString('en')} ${n === 1 ? 'line' : 'lines'}`;
const rows = (n: number) => `${n.toLocaleString('en')} ${n === 1 ? 'row' : 'rows'}`;

/** What a sheet would do, in sentences: what is added and changed, and line by line what cannot be taken and why. */
export function SheetPreview({
  definition,
  plan,
  ignored,
  kept,
}: {
  definition: TableDefinition;
  plan: ImportPreview;
  ignored: string[];
  kept: string[];
}) {
  const label = (id: string) => definition.columns.find((c) => c.id === id)?.label ?? id;
  return (
    <section aria-label="What it would do" className="max-w-3xl">
      <h2 className="font-medium">What it would do</h2>
      <ul className="mt-1 space-y-1">
        <li>
          Adds {rows(plan.adds)}, changes {rows(plan.changes.many)}
          {plan.same > 0 && `; ${rows(plan.same)} ${plan.same === 1 ? 'is as it was' : 'are as they were'}`}.
        </li>
        {ignored.length > 0 && <li>Leaves out what the table has no column for: {ignored.join(', ')}.</li>}
        {kept.length > 0 && <li>Keeps what stands in columns that the sheet has not: {kept.join(', ')}.</li>}
      </ul>
      {plan.refused.many > 0 && (
        <>
          <h3 className="mt-4 font-medium">{lines(plan.refused.many)} cannot be taken</h3>
          <ul>
            {plan.refused.first.map((r) => (
              <li key={r.line} className="flex gap-2 border-b py-1">
                <StateMark kind="failed" />
                <span>
                  <span className="numbers">Line {r.line}</span>: {r.problems.map((p) => p.sentence).join(' ')}
                </span>
              </li>
            ))}
          </ul>
          {plan.refused.many > plan.refused.first.length && (
            <p className="text-faint">And {lines(plan.refused.many - plan.refused.first.length)} more.</p>
          )}
        </>
      )}
      {plan.changes.many > 0 && (
        <>
          <h3 className="mt-4 font-medium">Changes</h3>
          <ul>
            {plan.changes.first.map((c) => (
              <li key={c.line} className="border-b py-1">
                <span className="numbers">Line {c.line}</span>: {c.called}, {c.columns.map(label).join(', ')}
              </li>
            ))}
          </ul>
          {plan.changes.many > plan.changes.first.length && (
            <p className="text-faint">And {rows(plan.changes.many - plan.changes.first.length)} more.</p>
          )}
        </>
      )}
    </section>
  );
}
