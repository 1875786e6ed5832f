'use client';

import { Fragment } from 'react';
import { useActions, useDerived } from '../workspace/context';

/** A finding's message: names between backticks stand out, and those of nets and pads can be clicked. */
export function Message({ text }: { text: string }) {
  const { derived } = useDerived();
  const { select } = useActions();
  const { device, plan } = derived;
  return (
    <>
      {text.split('`').map((part, index) => {
        const key = `${index} ${part}`;
        if (index % 2 === 0) return <Fragment key={key}>{part}</Fragment>;
        const net = plan.nets.find((one) => one.name === part);
        if (net) {
          return (
            <button
              key={key}
              type="button"
              className="inline font-semibold hover:underline"
              onClick={() => select({ kind: 'net', id: net.id })}
            >
              {part}
            </button>
          );
        }
        if (device.pads.has(part)) {
          return (
            <button
              key={key}
              type="button"
              className="m inline hover:underline"
              onClick={() => select({ kind: 'pad', id: part })}
            >
              {part}
            </button>
          );
        }
        return (
          <span key={key} className="m">
            {part}
          </span>
        );
      })}
    </>
  );
}
