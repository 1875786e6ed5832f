'use client';

interface Choice {
  value: string;
  label: string;
  /** Why this value is not to be had; it is shown struck through and cannot be chosen. */
  lacking?: string;
}

interface Props {
  label: string;
  /** None is chosen when it is undefined: what it is about does not agree. */
  value: string | undefined;
  choices: readonly Choice[];
  onChange: (value: string) => void;
}

/** A row of values of which one is chosen: a radio group, walked with the arrow keys. */
export function Segments({ label, value, choices, onChange }: Props) {
  const group = (
    <div
      role="radiogroup"
      aria-label={label}
      className="inline-flex flex-wrap justify-self-start border border-rule"
    >
      {choices.map((choice, index) => {
        const chosen = choice.value === value;
        return (
          // biome-ignore lint/a11y/useSemanticElements: the roving row of values is one tab stop, which radio inputs of this look cannot be
          <button
            key={choice.value}
            type="button"
            role="radio"
            aria-checked={chosen}
            aria-disabled={choice.lacking !== undefined}
            title={choice.lacking}
            tabIndex={chosen || (value === undefined && index === 0) ? 0 : -1}
            className={`border-r border-rule px-[5px] py-px last:border-r-0 ${
              chosen
                ? 'bg-ink text-sheet'
                : choice.lacking
                  ? 'cursor-not-allowed text-soft line-through'
                  : 'hover:bg-pickbg'
            }`}
            onClick={() => choice.lacking === undefined && !chosen && onChange(choice.value)}
            onKeyDown={(event) => {
              const step = event.key === 'ArrowRight' ? 1 : event.key === 'ArrowLeft' ? -1 : 0;
              if (step === 0) return;
              event.preventDefault();
              event.stopPropagation();
              const usable = choices.filter((one) => one.lacking === undefined || one.value === value);
              const at = usable.findIndex((one) => one.value === value);
              const next = usable[(at + step + usable.length) % usable.length];
              if (!next || next.value === value) return;
              onChange(next.value);
              const group = event.currentTarget.parentElement;
              requestAnimationFrame(() =>
                group?.querySelector<HTMLElement>('[aria-checked="true"]')?.focus(),
              );
            }}
          >
            {choice.label}
          </button>
        );
      })}
    </div>
  );
  if (value !== undefined) return group;
  return (
    <span className="inline-flex flex-wrap items-baseline gap-x-1.5">
      {group}
      <span className="text-soft">differ</span>
    </span>
  );
}
