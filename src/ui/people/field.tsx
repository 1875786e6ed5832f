'use client';

import { type InputHTMLAttributes, useId } from 'react';

type Props = Omit<InputHTMLAttributes<HTMLInputElement>, 'onChange' | 'value'> & {
  title: string;
  /** What it must be, below it. */
  hint?: string;
  value: string;
  onValue: (value: string) => void;
};

/** A field with its title above it, as forms about people have them. */
export function Field({ title, hint, value, onValue, ...rest }: Props) {
  const id = useId();
  return (
    <div className="mb-3">
      <label htmlFor={id} className="mb-0.5 block text-soft">
        {title}
      </label>
      <input
        id={id}
        className="w-full"
        value={value}
        aria-describedby={hint ? `${id}-hint` : undefined}
        onChange={(event) => onValue(event.target.value)}
        {...rest}
      />
      {hint && (
        <p id={`${id}-hint`} className="mt-0.5 text-soft">
          {hint}
        </p>
      )}
    </div>
  );
}

/** A page that is one small form: signing in, joining. */
export function FormPage({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <main className="mx-auto flex min-h-full max-w-sm flex-col justify-center px-6 py-16">
      <p className="mb-6 border-b border-ink pb-1 text-[15px] font-semibold">
        Mavrek <span className="font-normal text-soft">what every pin does, and code that proves it</span>
      </p>
      <h1 className="mb-3 text-xl font-semibold">{title}</h1>
      {children}
    </main>
  );
}
