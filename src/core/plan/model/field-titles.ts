import { type Demands, type FarEnd, type NetSettingKey, netSettingTitle } from './types';

/** What a demand is called, and what a figure of it is in. */
export const DEMAND_TITLES: { [Key in keyof Required<Demands>]: { title: string; unit?: string } } = {
  rateHertz: { title: 'rate', unit: 'Hz' },
  format: { title: 'format' },
  milliamps: { title: 'load', unit: 'mA' },
  load: { title: 'what loads it' },
  farVolts: { title: 'voltage at the far end', unit: 'V' },
  farPull: { title: 'what holds it at the far end' },
  farPullOhms: { title: 'resistor at the far end', unit: 'Ω' },
  beforeInit: { title: 'level before initialisation' },
  side: { title: 'side of the package' },
  notPads: { title: 'pads it must not be on' },
};

export const FAR_TITLES: { [Key in keyof Required<FarEnd>]: { title: string; unit?: string } } = {
  part: { title: 'part at the far end' },
  connector: { title: 'connector' },
  label: { title: 'text printed beside it' },
};

type Titles = Readonly<Record<string, { title: string; unit?: string }>>;

/** "set rate of MAST_TX to 9600 Hz", "take the rate off MAST_TX", "change rate and load of FAN_1": what became of such an object. */
export function changeText(titles: Titles, name: string, from: object, to: object): string {
  const [was, is] = [from as Record<string, unknown>, to as Record<string, unknown>];
  const keys = [...new Set([...Object.keys(was), ...Object.keys(is)])].filter(
    (key) => JSON.stringify(was[key]) !== JSON.stringify(is[key]),
  );
  const titleOf = (key: string): string => titles[key]?.title ?? key;
  const [key] = keys;
  if (key === undefined) return `change nothing about ${name}`;
  if (keys.length > 1)
    return `change ${keys.slice(0, -1).map(titleOf).join(', ')} and ${titleOf(keys.at(-1) ?? '')} of ${name}`;
  const value = is[key];
  if (value === undefined) return `say nothing of the ${titleOf(key)} of ${name}`;
  if (typeof value === 'object') return `set ${titleOf(key)} of ${name}`;
  const unit = titles[key]?.unit;
  return `set ${titleOf(key)} of ${name} to ${value}${unit === undefined ? '' : ` ${unit}`}`;
}

/** A field of a net as facts name it (`demands.rateHertz`, `settings.active`, `note`) in words, with the unit of its figures. */
export function fieldTitle(field: string): string {
  const dot = field.indexOf('.');
  const [head, key] = dot < 0 ? [field, ''] : [field.slice(0, dot), field.slice(dot + 1)];
  if (head === 'settings') return netSettingTitle(key as NetSettingKey);
  const found =
    head === 'demands'
      ? DEMAND_TITLES[key as keyof typeof DEMAND_TITLES]
      : head === 'far'
        ? FAR_TITLES[key as keyof typeof FAR_TITLES]
        : undefined;
  return found ? `${found.title}${found.unit === undefined ? '' : `, ${found.unit}`}` : field;
}
