import { ChevronLeft, ChevronRight } from 'lucide-react';
import { DayPicker } from 'react-day-picker';

const asDate = (day: string): Date => new Date(Number(day.slice(0, 4)), Number(day.slice(5, 7)) - 1, Number(day.slice(8, 10)));
const asDay = (date: Date): string =>
  `${date.getFullYear()}-${String(date.getMonth() + 1).padStart(2, '0')}-${String(date.getDate()).padStart(2, '0')}`;

/** A month to pick a day from; weeks begin on Monday (ISO 8601). Fetched only when it is opened. */
export default function Month({ value, today, onPick }: { value: string; today: string; onPick: (day: string) => void }) {
  const chosen = value ? asDate(value) : undefined;
  return (
    <DayPicker
      autoFocus
      mode="single"
      weekStartsOn={1}
      today={asDate(today)}
      selected={chosen}
      defaultMonth={chosen ?? asDate(today)}
      onSelect={(date) => date && onPick(asDay(date))}
      components={{ Chevron: ({ orientation }) => (orientation === 'left' ? <ChevronLeft size={15} /> : <ChevronRight size={15} />) }}
      classNames={{
        months: 'relative',
        month_caption: 'flex h-7 items-center px-2 font-medium',
        nav: 'absolute top-0 right-0 flex',
        button_previous: 'flex size-7 items-center justify-center rounded hover:bg-sea-wash',
        button_next: 'flex size-7 items-center justify-center rounded hover:bg-sea-wash',
        weekday: 'size-8 text-xs font-normal text-faint',
        day: 'numbers p-0 text-center text-sm',
        day_button: 'size-8 rounded hover:bg-sea-wash',
        today: 'font-medium text-sea underline underline-offset-4',
        selected: 'rounded bg-sea text-on-sea [&>button]:hover:bg-sea',
        outside: 'opacity-55',
      }}
    />
  );
}
