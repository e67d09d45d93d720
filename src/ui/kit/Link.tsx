// A link to another page of the application. Nothing of that page is fetched before it is asked for: the server is on the same machine or in the same house,
// and a page with thirty links would cost it thirty requests more than the one that is followed.

import NextLink from 'next/link';
import type { ComponentProps } from 'react';

export default function Link(props: ComponentProps<typeof NextLink>) {
  return <NextLink prefetch={false} {...props} />;
}
