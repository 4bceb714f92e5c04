import { useId, type ReactNode } from 'react';

/** A labelled control: label, help, and what is wrong with it, tied together for those who hear the page. */
export function Labelled({
  label,
  help,
  problem,
  required = false,
  children,
}: {
  label: string;
  help?: string | undefined;
  problem?: string | undefined;
  required?: boolean;
  children: (ids: { id: string; 'aria-describedby': string | undefined; 'aria-invalid': true | undefined }) => ReactNode;
}) {
  const id = useId();
  const described = [help && `${id}-help`, problem && `${id}-problem`].filter(Boolean).join(' ');
  return (
    <div>
      <label htmlFor={id} className="mb-1 block font-medium">
        {label}
        {required && <span className="font-normal text-faint"> (required)</span>}
      </label>
      {help && (
        <p id={`${id}-help`} className="mb-1 text-sm text-faint">
          {help}
        </p>
      )}
      {children({ id, 'aria-describedby': described || undefined, 'aria-invalid': problem ? true : undefined })}
      {problem && (
        <p id={`${id}-problem`} className="mt-1 text-sm text-coral">
          {problem}
        </p>
      )}
    </div>
  );
}
