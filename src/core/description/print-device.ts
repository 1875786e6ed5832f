import type { DeviceDescription } from './types';

/** Description → text, one pad, function or correction a line, so that it diffs and merges well. */
export function printDevice(description: DeviceDescription): string {
  const { format, id, name, maker, summary, source, corrections, text, ...rest } = description;
  const { packages, pads, functions, peripherals, ...others } = rest;
  const list = (items: readonly unknown[]): string =>
    items.length === 0 ? '[]' : `[\n${items.map((item) => `    ${JSON.stringify(item)}`).join(',\n')}\n  ]`;
  const entries: [string, string][] = [
    ...Object.entries({ format, id, name, maker, summary, source })
      .filter(([, value]) => value !== undefined)
      .map(([key, value]): [string, string] => [key, JSON.stringify(value)]),
    ...Object.entries({ packages, pads, functions, peripherals }).map(([key, value]): [string, string] => [
      key,
      list(value),
    ]),
    ...Object.entries(others)
      .filter(([, value]) => value !== undefined)
      .map(([key, value]): [string, string] => [key, JSON.stringify(value, null, 2).replace(/\n/g, '\n  ')]),
    ...(corrections ? [['corrections', list(corrections)] as [string, string]] : []),
    ...(text === undefined ? [] : [['text', JSON.stringify(text)] as [string, string]]),
  ];
  return `{\n${entries.map(([key, value]) => `  ${JSON.stringify(key)}: ${value}`).join(',\n')}\n}\n`;
}
