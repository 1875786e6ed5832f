import type { Metadata, Viewport } from 'next';
import type { ReactNode } from 'react';
import { meOf } from '@/server/people/accounts';
import { whoNow } from '@/server/people/who';
import { Live } from '@/ui/parts/live';
import { MeProvider } from '@/ui/people/me';
import './globals.css';

// Every page carries a nonce for its scripts, which only a page made for this request can.
export const dynamic = 'force-dynamic';

export const metadata: Metadata = {
  title: 'Mavrek',
  description: 'Plan what every pin of a microcontroller does, and take away proven initialisation code.',
};

export const viewport: Viewport = { width: 'device-width', initialScale: 1 };

/** Who it is made for, for those below and for what draws nothing. */
export default async function RootLayout({ children }: { children: ReactNode }) {
  const me = await meOf(whoNow());
  return (
    <html lang="en" suppressHydrationWarning>
      <head>
        {/* Sets the theme before the first paint; a file of its own, since pages hold no scripts of theirs. */}
        <script src="/theme.js" />
      </head>
      <body data-me={me && JSON.stringify(me)}>
        <Live>
          <MeProvider me={me}>{children}</MeProvider>
        </Live>
      </body>
    </html>
  );
}
