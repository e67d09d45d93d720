// The document around every page: fonts that ship with the app, the theme from its cookie, the window.

import '@fontsource-variable/atkinson-hyperlegible-next/wght.css';
import '@fontsource-variable/atkinson-hyperlegible-mono/wght.css';
import '@fontsource-variable/fraunces/wght.css';
import type { Metadata } from 'next';
import { cookies, headers } from 'next/headers';
import { Suspense, type ReactNode } from 'react';
import { GlobalStyle } from '@/ui/theme/GlobalStyle';
import { StyleRegistry } from '@/ui/theme/StyleRegistry';
import { WorkProvider } from '@/ui/kit/work';
import { Shell } from '@/ui/shell/Shell';

export const metadata: Metadata = {
  title: 'Loyal Satchel',
  description: 'Keeps 3D and game projects together.',
};
export const dynamic = 'force-dynamic';

export default async function Layout({ children }: { children: ReactNode }) {
  const asked = await headers();
  const nonce = asked.get('x-nonce') ?? '';
  const isBare = asked.has('x-bare');
  const theme = (await cookies()).get('theme')?.value;
  return (
    <html
      lang="en"
      data-theme={theme === 'paper' || theme === 'night' ? theme : 'system'}
      suppressHydrationWarning
    >
      <head>
        <meta property="csp-nonce" nonce={nonce} />
      </head>
      <body>
        <StyleRegistry nonce={nonce}>
          <GlobalStyle />
          <Suspense>
            {isBare ? (
              children
            ) : (
              <WorkProvider>
                <Shell>{children}</Shell>
              </WorkProvider>
            )}
          </Suspense>
        </StyleRegistry>
      </body>
    </html>
  );
}
