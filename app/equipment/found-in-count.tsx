import type { Counted } from '../../core/equipment/index.ts';

/** What a count found, in sentences; the marks behind each. */
export function FoundInCount({ counted: { there, missing, elsewhere, unknown, more }, kind }: { counted: Counted; kind: string }) {
  const marks = (pieces: { mark: string | null }[]) => pieces.flatMap((p) => p.mark ?? []).toSorted();
  const lines = [
    { n: there.length, words: 'where the books have them', marks: [] },
    { n: missing.length, words: 'not found', marks: marks(missing) },
    { n: elsewhere.length, words: 'found here, and elsewhere or handed out in the books', marks: marks(elsewhere) },
    { n: unknown.length + more, words: 'not in the books', marks: unknown },
  ];
  return (
    <ul aria-label={`What was counted of ${kind}`} className="mb-3 border-t text-sm">
      {lines.map((l) => (
        <li key={l.words} className="border-b py-1">
          <span className="numbers font-medium">{l.n}</span> {l.words}
          {l.marks.length > 0 && <span className="numbers">: {l.marks.join(', ')}</span>}
        </li>
      ))}
    </ul>
  );
}
