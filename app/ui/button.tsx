import { clsx } from 'clsx';
import type { ComponentProps } from 'react';
import { Link } from 'react-router';

type Weight = 'main' | 'plain' | 'decline' | 'quiet';
const looks: Record<Weight, string> = {
  main: 'border border-sea bg-sea text-on-sea hover:brightness-110',
  plain: 'border border-faint bg-sheet text-ink hover:border-sea hover:text-sea',
  decline: 'border border-coral bg-sheet text-coral hover:bg-coral-wash',
  quiet: 'border border-transparent text-sea hover:bg-sea-wash',
};
const look = (weight: Weight, className?: string) =>
  clsx(
    'inline-flex min-h-8 items-center justify-center gap-1.5 rounded px-3 py-1 font-medium disabled:opacity-55 aria-disabled:opacity-55',
    looks[weight],
    className,
  );

export function Button({ weight = 'plain', className, type = 'button', ...rest }: ComponentProps<'button'> & { weight?: Weight }) {
  return <button type={type} className={look(weight, className)} {...rest} />;
}
export function ButtonLink({ weight = 'plain', className, ...rest }: ComponentProps<typeof Link> & { weight?: Weight }) {
  return <Link className={look(weight, className)} {...rest} />;
}
