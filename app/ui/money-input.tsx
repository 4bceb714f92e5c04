import { useState } from 'react';
import { isMoney, typedAs, type Value } from '../../core/values/index.ts';

/** An amount and its currency; the currency is fixed where the form states one. What is not a sum yet is kept as it was typed. */
export function MoneyInput({
  value,
  currency,
  label,
  name,
  onChange,
  ...ids
}: {
  value: Value;
  currency?: string | undefined;
  label: string;
  name?: string;
  onChange: (value: Value) => void;
  id?: string;
  'aria-describedby'?: string | undefined;
  'aria-invalid'?: true | undefined;
}) {
  const kept = isMoney(value) ? [value.amount, value.currency] : typeof value === 'string' ? value.split(' ') : [];
  const [amount, setAmount] = useState(kept[0] ?? '');
  const [other, setOther] = useState(kept[1] ?? '');
  const say = (a: string, c: string) => {
    const typed = `${a} ${currency ?? c}`.trim();
    onChange(a === '' ? null : (typedAs(typed, 'money') ?? typed));
  };
  return (
    <span className="flex items-center gap-2">
      <input
        {...ids}
        name={name}
        className="input numbers"
        inputMode="decimal"
        autoComplete="off"
        value={amount}
        onChange={(e) => {
          setAmount(e.target.value);
          say(e.target.value, other);
        }}
      />
      {currency ? (
        <span className="numbers text-faint">{currency}</span>
      ) : (
        <input
          name={name && `${name}.currency`}
          className="input numbers w-28"
          aria-label={`${label}: currency`}
          placeholder="currency"
          aria-invalid={ids['aria-invalid'] && typedAs(`0 ${other}`, 'money') === undefined ? true : undefined}
          maxLength={3}
          value={other}
          onChange={(e) => {
            const c = e.target.value.toUpperCase();
            setOther(c);
            say(amount, c);
          }}
        />
      )}
    </span>
  );
}
