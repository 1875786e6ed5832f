'use client';

import Link from 'next/link';

interface Props {
  id: string;
  title: string;
  subtitle: string;
  headings: readonly string[];
  rows: readonly (readonly string[])[];
  /** What the sign-off says of this content; null where no revision is signed. */
  signature: { holds: boolean; text: string } | null;
}

/** A table that prints: headings on every page, no row cut in two, nothing of the application around it. */
export function SchedulePage({ id, title, subtitle, headings, rows, signature }: Props) {
  return (
    <main className="schedule min-h-dvh bg-paper px-6 py-4">
      <div className="mb-3 flex flex-wrap items-baseline gap-3">
        <h1 className="text-[17px] font-semibold">{title}</h1>
        <span className="text-soft">{subtitle}</span>
        <span className="ml-auto flex gap-2 print:hidden">
          <Link prefetch={false} className="button" href={`/plans/${id}?view=board`}>
            Back to the plan
          </Link>
          <button type="button" className="button button-strong" onClick={() => window.print()}>
            Print
          </button>
        </span>
      </div>
      <table className="w-full border-collapse text-[12px]">
        <thead>
          <tr className="border-b border-ink text-left">
            {headings.map((heading) => (
              <th key={heading} scope="col" className="pr-2 font-medium">
                {heading}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row[0]} className="border-b border-rule align-baseline">
              {row.map((cell, at) => (
                <td
                  key={headings[at]}
                  className={`pr-2 ${at < 2 ? 'm' : ''} ${at === 2 ? 'font-medium' : ''}`}
                >
                  {cell}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      <Signature signature={signature} />
    </main>
  );
}

/** Below the table: who has signed it, or lines to sign on. */
function Signature({ signature }: Pick<Props, 'signature'>) {
  if (signature?.holds) return <p className="mt-3 font-medium">✓ {signature.text}</p>;
  return (
    <section aria-label="Signatures" className="mt-4 break-inside-avoid">
      {signature && <p className="text-warn">▲ {signature.text}</p>}
      <div className="mt-2 grid grid-cols-3 gap-8">
        {['drawn up', 'checked', 'released'].map((what) => (
          <p key={what} className="mt-8 border-t border-ink pt-1 text-soft">
            {what}: name, date, signature
          </p>
        ))}
      </div>
    </section>
  );
}
