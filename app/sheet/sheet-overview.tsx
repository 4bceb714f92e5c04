import type { PointerEvent } from 'react';
import { kindWords, type Finding, type Line, type SheetFacts } from '../../core/plans/index.ts';
import { lookOf } from '~/steps';
import type { Shape } from '~/steps/look';

const colours: Record<Shape, string> = {
  gate: 'var(--ochre)',
  question: 'var(--ochre)',
  task: 'var(--sea)',
  letter: 'var(--violet)',
  meeting: 'var(--sea)',
  message: 'var(--sea)',
  call: 'var(--violet)',
  milestone: 'var(--moss)',
  wait: 'var(--faint)',
  reckoning: 'var(--faint)',
  end: 'var(--ink)',
  holds: 'var(--rule)',
};
const size = { left: 72, indent: 10, outline: 340, party: 96, head: 24 };

/** The whole plan at once: a thin line a step, for plans of hundreds; a click goes there. */
export function SheetOverview({
  lines,
  facts,
  findings,
  cursor,
  onGo,
}: {
  lines: Line[];
  facts: SheetFacts;
  findings: Map<string, Finding[]>;
  cursor: string | undefined;
  onGo: (line: string) => void;
}) {
  // Few lines stand apart, hundreds close together; all of them are on one screen where that can be.
  const pitch = Math.max(2, Math.min(12, Math.floor(540 / Math.max(1, lines.length))));
  const width = size.left + size.outline + facts.parties.length * size.party;
  const height = size.head + lines.length * pitch + 8;
  const at = (e: PointerEvent<SVGSVGElement>) => {
    const y = e.clientY - e.currentTarget.getBoundingClientRect().top - size.head;
    return lines[Math.max(0, Math.min(lines.length - 1, Math.floor(y / pitch)))];
  };
  const nth = lines.findIndex((l) => l.id === cursor);
  return (
    <div className="min-h-0 grow overflow-auto">
      <svg
        width={width}
        height={height}
        role="img"
        aria-label={`Overview of the plan: ${facts.steps.size} steps by ${facts.parties.length} parties. By names it can be walked with the arrow keys.`}
        className="cursor-pointer"
        onPointerUp={(e) => {
          const line = at(e);
          if (line) onGo(line.id);
        }}
      >
        {facts.parties.map((party, i) => (
          <text key={party} x={size.left + size.outline + i * size.party + 4} y={16} fontSize="12" fill="var(--faint)">
            {party.length > 14 ? `${party.slice(0, 13)}…` : party}
          </text>
        ))}
        {nth >= 0 && <rect x={0} y={size.head + nth * pitch - 1} width={width} height={Math.max(3, pitch)} fill="var(--sea-wash)" />}
        {lines.map((l, i) => {
          const y = size.head + i * pitch;
          const x = size.left + l.guides.length * size.indent;
          if (l.is === 'branch') return <rect key={l.id} x={x} y={y} width={24} height={1} fill={l.aside ? 'var(--coral)' : 'var(--rule)'} />;
          const shape = lookOf(l.step).shape;
          const of = facts.steps.get(l.id);
          const column = of ? facts.parties.indexOf(of.party) : -1;
          const thick = Math.max(1, Math.min(4, pitch - 1));
          return (
            <g key={l.id}>
              <title>{`${l.number} ${kindWords[l.step.kind].verb}: ${l.step.name}`}</title>
              <rect
                x={x}
                y={y}
                width={Math.min(size.outline - 40, 24 + l.step.name.length * 4)}
                height={thick}
                fill={of?.critical ? 'var(--ink)' : 'var(--faint)'}
              />
              {column >= 0 && <rect x={size.left + size.outline + column * size.party + 4} y={y} width={44} height={thick} fill={colours[shape]} />}
              {shape === 'gate' && <rect x={x} y={y + thick} width={width - x} height={1} fill="var(--ochre)" />}
              {findings.has(l.id) && <rect x={size.left - 12} y={y} width={6} height={thick} fill="var(--coral)" />}
            </g>
          );
        })}
      </svg>
    </div>
  );
}
