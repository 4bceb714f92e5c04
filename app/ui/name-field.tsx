import { clsx } from 'clsx';
import { useId, type ComponentProps } from 'react';

/** One line of words with a limit, which is said as one nears it. */
export function NameField({
  value,
  maxLength,
  className,
  'aria-describedby': described,
  ...rest
}: Omit<ComponentProps<'input'>, 'value' | 'maxLength'> & { value: string; maxLength: number }) {
  const own = useId();
  const left = maxLength - value.length;
  const near = left <= Math.max(5, maxLength * 0.15);
  return (
    <span className="block">
      <input
        {...rest}
        className={clsx('input', className)}
        value={value}
        maxLength={maxLength}
        aria-describedby={[described, near && own].filter(Boolean).join(' ') || undefined}
      />
      {near && (
        <span id={own} role="status" className="mt-1 block text-sm text-faint">
          {left === 0 ? `No more than ${maxLength} characters.` : `${left} ${left === 1 ? 'character' : 'characters'} left.`}
        </span>
      )}
    </span>
  );
}
