import type { ComponentProps, ReactNode } from 'react';
import { Select } from '~/ui/select';
import { StateMark } from '~/ui/state-mark';

/** A line of the counter: what it is about and what is known of it, beside it what can be done. */
export function Line({
  label,
  mark,
  title,
  known,
  children,
}: {
  label: string;
  mark: ComponentProps<typeof StateMark>['kind'];
  title: ReactNode;
  known: ReactNode;
  children: ReactNode;
}) {
  return (
    <li aria-label={label} className="grid gap-x-6 gap-y-2 border-b py-3 lg:grid-cols-[minmax(0,1fr)_minmax(0,26rem)]">
      <div className="min-w-0">
        <p className="flex items-start gap-2">
          <span className="mt-0.5">
            <StateMark kind={mark} size={14} />
          </span>
          <span className="min-w-0 break-words">{title}</span>
        </p>
        {known}
      </div>
      <div className="min-w-0 space-y-2">{children}</div>
    </li>
  );
}

/** One of a few things by its name. */
export const OneOf = ({ of, ...props }: Omit<ComponentProps<typeof Select>, 'children'> & { of: readonly { id: string; name: string }[] }) => (
  <Select {...props}>
    {of.map((x) => (
      <option key={x.id} value={x.id}>
        {x.name}
      </option>
    ))}
  </Select>
);
