export function FindingCounts({ errors, warnings }: { errors: number; warnings: number }) {
  if (errors + warnings === 0) return <span className="text-soft">none</span>;
  return (
    <span className="inline-flex gap-3">
      {errors > 0 && (
        <span className="text-err" title={`${errors} errors`}>
          ▲ {errors} <span className="sr-only">errors</span>
        </span>
      )}
      {warnings > 0 && (
        <span className="text-warn" title={`${warnings} warnings`}>
          △ {warnings} <span className="sr-only">warnings</span>
        </span>
      )}
    </span>
  );
}
