/**
 * Decimals as texts, exact to the last digit. Only what comparing and keeping needs: expressions calculate with decimal.js,
 * which would be a tenth of what a page of the Counter loads.
 */
interface Parts {
  minus: boolean;
  whole: string;
  part: string;
}

/** Digits a decimal may have (IEEE 754-2008 decimal128). */
const most = 34;

function partsOf(text: string): Parts | undefined {
  const m = text.length <= 80 ? /^([+-])?(\d+)?(?:\.(\d+)?)?(?:e([+-]?\d{1,3}))?$/i.exec(text.trim()) : null;
  if (!m || (m[2] === undefined && m[3] === undefined)) return undefined;
  const shift = Number(m[4] ?? 0);
  const digits = `${m[2] ?? ''}${m[3] ?? ''}`;
  const point = (m[2] ?? '').length + shift;
  const padded = point < 0 ? '0'.repeat(-point) + digits : digits.padEnd(point, '0');
  const at = Math.max(point, 0);
  const whole = padded.slice(0, at).replace(/^0+/, '');
  const part = padded.slice(at).replace(/0+$/, '');
  return { minus: m[1] === '-' && whole + part !== '', whole, part };
}

/** A decimal in its one plain form; undefined where the text is none, has more than 34 digits that count, or more than 60 in all. */
export function decimalText(text: string): string | undefined {
  const p = partsOf(text);
  if (!p || p.whole.length + p.part.length > 60 || (p.whole + p.part).replace(/^0+/, '').length > most) return undefined;
  return `${p.minus ? '-' : ''}${p.whole || '0'}${p.part ? `.${p.part}` : ''}`;
}

/** Which of two decimals is less: below 0, 0 or above. Both are texts as `decimalText` gives them. */
export function compareDecimals(a: string, b: string): number {
  const [x, y] = [partsOf(a), partsOf(b)];
  if (!x || !y) throw new RangeError('This is not a decimal.');
  if (x.minus !== y.minus) return x.minus ? -1 : 1;
  const sign = x.minus ? -1 : 1;
  if (x.whole.length !== y.whole.length) return sign * (x.whole.length - y.whole.length);
  const length = Math.max(x.part.length, y.part.length);
  const [p, q] = [x.whole + x.part.padEnd(length, '0'), y.whole + y.part.padEnd(length, '0')];
  return p === q ? 0 : p < q ? -sign : sign;
}
