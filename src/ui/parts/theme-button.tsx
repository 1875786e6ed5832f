'use client';

import { SunMoon } from 'lucide-react';

/** Switches between light and dark, and remembers the choice. */
export function toggleTheme(): void {
  const root = document.documentElement;
  const next = root.dataset.theme === 'dark' ? 'light' : 'dark';
  root.dataset.theme = next;
  try {
    localStorage.setItem('mavrek:theme', next);
  } catch {
    // Without storage the choice lasts as long as the page.
  }
}

export function ThemeButton() {
  return (
    <button
      type="button"
      className="p-1.5 text-soft hover:text-ink"
      aria-label="Light or dark"
      title="Light or dark"
      onClick={toggleTheme}
    >
      <SunMoon size={16} />
    </button>
  );
}
