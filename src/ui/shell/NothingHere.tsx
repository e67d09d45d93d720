'use client';
// An address that leads to no page, and the way back.

import Link from '../kit/Link';
import { usePathname } from 'next/navigation';
import { Empty } from '../kit/notices';
import { Page } from '../kit/Page';
import { useStepHref } from '../kit/work';

export function NothingHere() {
  const href = useStepHref();
  return (
    <Page title="There is no such page">
      <Empty>
        Nothing lies at {usePathname()}. The address may be an old one, or lack a piece.{' '}
        <Link href={href('/')}>Go to your workspaces</Link>, or pick a step on the left.
      </Empty>
    </Page>
  );
}
