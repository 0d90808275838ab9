import type { Money } from "../api/client";

/** An amount as people write it; whole units where `rough`. */
export function money(amount: Money, rough = false): string {
  const digits = digitsOf(amount.currency);
  return new Intl.NumberFormat(undefined, {
    style: "currency",
    currency: amount.currency,
    ...(rough ? { maximumFractionDigits: 0 } : {}),
  }).format(amount.minor / 10 ** digits);
}

/** From the least to the most that it may be, one amount where both are the same. */
export function moneyRange(range: { low: Money; high: Money }, rough = false): string {
  const low = money(range.low, rough);
  const high = money(range.high, rough);
  return low === high ? low : `${low} to ${high}`;
}

/** Digits behind the point of a currency, as the browser knows them. */
export function digitsOf(currency: string): number {
  const options = new Intl.NumberFormat("en", { style: "currency", currency }).resolvedOptions();
  return options.maximumFractionDigits ?? 2;
}

/** What was typed, in the smallest unit; null where it is no amount. */
export function minorOf(typed: string, currency: string): number | null {
  const text = typed.trim().replace(",", ".");
  if (!/^\d{1,9}(\.\d*)?$/.test(text)) return null;
  return Math.round(Number(text) * 10 ** digitsOf(currency));
}
