'use client';

interface FieldProps {
  label: string;
  value: string;
  mono?: boolean;
  disabled?: boolean;
  placeholder?: string;
  onChange: (text: string) => void;
}

/** A line of text with its label before it. */
export function Field({ label, value, mono, disabled, placeholder, onChange }: FieldProps) {
  const id = `part-${label.replace(/\s+/g, '-')}`;
  return (
    <>
      <label htmlFor={id} className="text-soft">
        {label}
      </label>
      <input
        id={id}
        className={mono ? 'm' : ''}
        maxLength={300}
        disabled={disabled}
        placeholder={placeholder}
        value={value}
        onChange={(event) => onChange(event.target.value)}
      />
    </>
  );
}

/** A number that may be left open. */
export function NumberField({
  label,
  value,
  onChange,
}: {
  label: string;
  value: number | undefined;
  onChange: (value: number | undefined) => void;
}) {
  return (
    <input
      key={value === undefined ? 'none' : 'some'}
      aria-label={label}
      className="m text-right"
      inputMode="decimal"
      placeholder="not stated"
      defaultValue={value ?? ''}
      onBlur={(event) => {
        const number = Number.parseFloat(event.target.value.replace(',', '.'));
        onChange(Number.isNaN(number) ? undefined : number);
      }}
    />
  );
}
