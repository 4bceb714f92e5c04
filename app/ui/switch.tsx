import { Switch as Parts } from 'radix-ui';
import { useHydrated } from './choices';

/** On or off at once, beside its words; what is sent with a form is a checkbox. */
export function Switch({
  on,
  onTurned,
  ...ids
}: {
  on: boolean;
  onTurned: (on: boolean) => void;
  id?: string;
  'aria-label'?: string;
  disabled?: boolean;
}) {
  const hydrated = useHydrated();
  return (
    <Parts.Root
      {...ids}
      checked={on}
      onCheckedChange={onTurned}
      disabled={ids.disabled === true || !hydrated}
      className="group inline-flex h-5 w-9 shrink-0 items-center rounded-full border border-faint bg-sheet px-0.5 disabled:opacity-55 data-[state=checked]:border-sea data-[state=checked]:bg-sea"
    >
      <Parts.Thumb className="size-3.5 rounded-full bg-faint motion-safe:transition-transform motion-safe:duration-100 data-[state=checked]:translate-x-4 data-[state=checked]:bg-on-sea" />
    </Parts.Root>
  );
}
