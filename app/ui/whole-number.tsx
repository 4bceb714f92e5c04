import type { ReactNode } from 'react';

/** A number as typed, rounded, and brought within its bounds; the least where nothing that counts was typed. */
export const wholeWithin = (typed: string, min: number, max: number): number => Math.min(max, Math.max(min, Math.round(Number(typed)) || min));

/** A small whole number in a line of words: “Levels up [2]”. What is out of its bounds goes to the nearest of them. */
export function WholeNumber({
  before,
  after,
  value,
  min = 1,
  max,
  onChange,
}: {
  before: ReactNode;
  after?: ReactNode;
  value: number;
  min?: number;
  max: number;
  onChange: (value: number) => void;
}) {
  return (
    <label className="flex items-center gap-2 text-sm">
      {before}
      <input
        type="number"
        className="input numbers w-16!"
        min={min}
        max={max}
        value={value}
        onChange={(e) => onChange(wholeWithin(e.target.value, min, max))}
      />
      {after}
    </label>
  );
}
