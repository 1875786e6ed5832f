'use client';

import { useMe } from './me';

/** Who says it: a field where people call themselves what they like, a name where they are signed in. */
export function AuthorField({
  id,
  value,
  placeholder = 'you',
  maxLength = 120,
  className,
  label,
  onChange,
}: {
  id?: string;
  value: string;
  placeholder?: string;
  maxLength?: number;
  className: string;
  /** Where no label stands beside it. */
  label?: string;
  onChange: (name: string) => void;
}) {
  const me = useMe();
  if (me) return <span className={`${className} text-soft`}>{me.name}</span>;
  return (
    <input
      id={id}
      aria-label={label}
      placeholder={placeholder}
      maxLength={maxLength}
      className={className}
      value={value}
      onChange={(event) => onChange(event.target.value)}
    />
  );
}
