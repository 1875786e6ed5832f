import type { Metadata, Viewport } from 'next';
import type { ReactNode } from 'react';
import './globals.css';

export const metadata: Metadata = {
  title: 'Mavrek',
  description: 'Plan what every pin of a microcontroller does, and take away proven initialisation code.',
};

export const viewport: Viewport = { width: 'device-width', initialScale: 1 };

/** Sets the theme before the first paint: the one chosen, else the system's. */
const THEME_SCRIPT = `(function(){try{var t=localStorage.getItem('mavrek:theme');
if(t!=='light'&&t!=='dark')t=matchMedia('(prefers-color-scheme: dark)').matches?'dark':'light';
document.documentElement.dataset.theme=t}catch(e){}})()`;

export default function RootLayout({ children }: { children: ReactNode }) {
  return (
    <html lang="en" suppressHydrationWarning>
      <head>
        {/* biome-ignore lint/security/noDangerouslySetInnerHtml: a constant of ours, needed before the first paint */}
        <script dangerouslySetInnerHTML={{ __html: THEME_SCRIPT }} />
      </head>
      <body>{children}</body>
    </html>
  );
}
