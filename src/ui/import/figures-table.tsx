'use client';

import { NumberField } from './part-fields';

/** A figure of each item: how it is called, its unit on the screen, and how many of the description's units that is. */
export interface Figure<Item> {
  key: keyof Item & string;
  title: string;
  unit: string;
  per?: number;
}

interface Props<Item> {
  /** What an item is called: "supply". */
  what: string;
  items: readonly (Item & { title?: string })[];
  idOf: (item: Item) => string;
  figures: readonly Figure<Item>[];
  onChange: (id: string, change: Partial<Item>) => void;
}

/** Items with their figures, all of which may be left open: what the document does not say is not there. */
export function FiguresTable<Item extends object>({ what, items, idOf, figures, onChange }: Props<Item>) {
  const titled = items.some((one) => one.title !== undefined);
  return (
    <div className="overflow-x-auto">
      <table aria-label={`Figures by ${what}`} className="border-collapse">
        <thead>
          <tr className="text-left text-[12px] text-soft">
            <th className="pr-2 font-normal">{what}</th>
            {titled && <th className="pr-2 font-normal">title</th>}
            {figures.map((figure) => (
              <th key={figure.key} className="pr-2 text-right font-normal">
                {figure.title} <span className="whitespace-nowrap">({figure.unit})</span>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {items.map((item) => {
            const id = idOf(item);
            return (
              <tr key={id}>
                <th scope="row" className="m pr-2 text-left font-normal">
                  {id}
                </th>
                {titled && (
                  <td className="pr-2">
                    <input
                      aria-label={`Title of ${what} ${id}`}
                      className="w-36"
                      value={item.title ?? ''}
                      maxLength={100}
                      onChange={(event) =>
                        onChange(id, { title: event.target.value } as unknown as Partial<Item>)
                      }
                    />
                  </td>
                )}
                {figures.map(({ key, title, per = 1 }) => {
                  const value = item[key] as number | undefined;
                  return (
                    <td key={key} className="w-20 pr-2">
                      <NumberField
                        label={`${title} of ${what} ${id}`}
                        value={value === undefined ? undefined : value / per}
                        onChange={(next) =>
                          onChange(id, {
                            [key]: next === undefined ? undefined : Number((next * per).toPrecision(12)),
                          } as Partial<Item>)
                        }
                      />
                    </td>
                  );
                })}
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}
