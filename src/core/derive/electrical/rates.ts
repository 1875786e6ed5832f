import { largest, smallest } from '../../base/lists';
import { type RateSource, type SignalId, splitSignal } from '../../description/types';
import type { Device } from '../../device/device';

/** The rate nearest to a wanted one that a divider gives. */
export interface Rate {
  hertz: number;
  divider: number;
  /** Of the wanted rate, in percent; positive when too fast. */
  errorPercent: number;
  /** What the divider divides: clock / per. */
  clockHertz: number;
  per: number;
}

interface Source {
  clockHertz: number;
  per: number;
  dividers: RateSource['dividers'];
}

/** How the rate of a signal comes about; undefined where the description does not say, or the line does not run at the rate. */
export function rateSourceOf(device: Device, signal: SignalId): Source | undefined {
  const [instance, line] = splitSignal(signal);
  const rate = device.kindOf(signal)?.rate;
  if (!rate || (rate.lines && !rate.lines.includes(line))) return undefined;
  const own = device.description.peripherals.find((one) => one.id === instance)?.clockHertz;
  const clockHertz = own ?? rate.clockHertz;
  return clockHertz === undefined ? undefined : { clockHertz, per: rate.per ?? 1, dividers: rate.dividers };
}

/** The nearest reachable rate: clock / (per × divider), of two equally near the slower. */
export function nearestRate(device: Device, signal: SignalId, wantedHertz: number): Rate | undefined {
  const source = rateSourceOf(device, signal);
  if (!source || wantedHertz <= 0) return undefined;
  const { clockHertz, per } = source;
  const base = clockHertz / per;
  const rates = around(source.dividers, base / wantedHertz).map((divider): Rate => {
    const hertz = base / divider;
    return { hertz, divider, errorPercent: (hertz / wantedHertz - 1) * 100, clockHertz, per };
  });
  return rates.sort(
    (a, b) => Math.abs(a.errorPercent) - Math.abs(b.errorPercent) || b.divider - a.divider,
  )[0];
}

/** The fastest reachable rate that is not above a wanted one; undefined where all are above it. */
export function rateNotAbove(device: Device, signal: SignalId, wantedHertz: number): Rate | undefined {
  const source = rateSourceOf(device, signal);
  if (!source || wantedHertz <= 0) return undefined;
  const { clockHertz, per } = source;
  const base = clockHertz / per;
  const rates = around(source.dividers, base / wantedHertz)
    .map((divider): Rate => {
      const hertz = base / divider;
      return { hertz, divider, errorPercent: (hertz / wantedHertz - 1) * 100, clockHertz, per };
    })
    // A rate that is the wanted one but for rounding is not above it.
    .filter((rate) => rate.hertz <= wantedHertz * (1 + 1e-9));
  return rates.sort((a, b) => b.hertz - a.hertz)[0];
}

/** Dividers of a range, or those listed, next to an ideal one. */
function around(dividers: RateSource['dividers'], ideal: number): number[] {
  if (Array.isArray(dividers)) return dividers;
  const { from, to, step = 1 } = dividers;
  const last = from + Math.floor((to - from) / step) * step;
  const below = from + Math.floor((ideal - from) / step) * step;
  return [...new Set([below, below + step].map((one) => Math.min(last, Math.max(from, one))))];
}

/** Slowest and fastest rate that the dividers give, in hertz. */
export function rateRange(device: Device, signal: SignalId): { lowest: number; highest: number } | undefined {
  const source = rateSourceOf(device, signal);
  if (!source) return undefined;
  const { dividers } = source;
  const [slowest, fastest] = Array.isArray(dividers)
    ? [smallest(dividers), largest(dividers)]
    : [dividers.from, dividers.to];
  const base = source.clockHertz / source.per;
  return { lowest: base / fastest, highest: base / slowest };
}
