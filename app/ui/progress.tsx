import { Progress as Parts } from 'radix-ui';

/** How much of something long is done, from 0 to 1; undefined while that cannot be told. */
export function Progress({ label, part }: { label: string; part: number | undefined }) {
  const done = part === undefined ? null : Math.round(Math.min(1, Math.max(0, part)) * 100);
  return (
    <Parts.Root aria-label={label} value={done} className="relative block h-1 w-full overflow-hidden rounded bg-rule">
      <Parts.Indicator
        className="block h-full bg-sea data-[state=indeterminate]:w-1/3 data-[state=indeterminate]:opacity-55"
        style={done === null ? undefined : { width: `${done}%` }}
      />
    </Parts.Root>
  );
}
