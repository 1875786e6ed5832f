import { FORMS } from '@/core/bench/script/forms';

/** What a line of a script can be, with an example each: where scripts are written. */
export function ScriptSteps() {
  return (
    <details className="mt-3">
      <summary className="leading-6 text-soft">What a line can be</summary>
      <dl>
        {FORMS.map((one) => (
          <div key={one.id} className="border-b border-rule py-1">
            <dt className="m">{one.example}</dt>
            <dd className="text-soft">{one.says.replaceAll('`', '')}</dd>
          </div>
        ))}
      </dl>
    </details>
  );
}
