import { clsx } from 'clsx';
import { useId, type ComponentProps } from 'react';

/** One line of words in a row of several, named for those who hear the page; what is wrong with it stands under it. */
export function Line({
  label,
  problem,
  className,
  ...rest
}: Omit<ComponentProps<'input'>, 'aria-label'> & { label: string; problem: string | undefined }) {
  const id = useId();
  return (
    <span className="block min-w-0">
      <input
        {...rest}
        className={clsx('input', className)}
        aria-label={label}
        aria-invalid={problem ? true : undefined}
        aria-describedby={problem ? id : undefined}
      />
      {problem && (
        <span id={id} className="mt-1 block text-sm text-coral">
          {problem}
        </span>
      )}
    </span>
  );
}
