'use client';
// A step's sheet: title, the sentence that answers the question, the main action beside it, then the content.

import type { ReactNode } from 'react';
import styled from 'styled-components';
import { space } from '../theme/theme';
import { Empty, ErrorNotice } from './notices';
import { shapeOf } from './api';
import { useWorkspaceId } from './work';
import Link from './Link';

const Frame = styled.div<{ $fill: boolean }>`
  padding: ${space(5)} ${space(6)} ${space(6)};
  display: flex;
  flex-direction: column;
  gap: ${space(4)};
  ${(p) => (p.$fill ? 'height: 100%; min-height: 460px;' : 'min-height: 100%;')}
  max-width: 1880px;
`;
const Head = styled.div`
  display: flex;
  align-items: flex-end;
  gap: ${space(5)};
  flex-wrap: wrap;
  .words {
    flex: 1 1 420px;
    min-width: 0;
    display: flex;
    flex-direction: column;
    gap: ${space(2)};
  }
  .answer {
    font-size: 15.5px;
    max-width: 76ch;
  }
  .actions {
    display: flex;
    gap: ${space(2)};
    flex-wrap: wrap;
  }
`;

export function Page({
  title,
  answer,
  actions,
  children,
  kicker,
  fill = false,
}: {
  title: string;
  /** What is on it takes the height of the window, and scrolls within: a grid. */
  fill?: boolean;
  answer?: ReactNode;
  actions?: ReactNode;
  children?: ReactNode;
  kicker?: ReactNode;
}) {
  return (
    <Frame $fill={fill}>
      <Head>
        <div className="words">
          {kicker}
          <h1>{title}</h1>
          {answer && <div className="answer">{answer}</div>}
        </div>
        {actions && <div className="actions">{actions}</div>}
      </Head>
      {children}
    </Frame>
  );
}

/** The sentence and the action of one view of a page, where each view has its own. */
export function ViewHead({ answer, actions }: { answer: ReactNode; actions?: ReactNode }) {
  return (
    <Head>
      <div className="words">
        <div className="answer">{answer}</div>
      </div>
      {actions && <div className="actions">{actions}</div>}
    </Head>
  );
}

/** The page's content once a workspace is open and its data is there; else what to do. */
export function Needs<T>({
  title,
  result,
  children,
}: {
  title: string;
  result: { data: T | undefined; error: unknown };
  children: (data: T) => ReactNode;
}) {
  const id = useWorkspaceId();
  if (id === null)
    return (
      <Page title={title}>
        <Empty action={<Link href="/">Go to Workspaces</Link>}>
          No workspace is open. Choose one, or create the first.
        </Empty>
      </Page>
    );
  if (result.error)
    return (
      <Page title={title}>
        <ErrorNotice error={shapeOf(result.error)} />
      </Page>
    );
  if (result.data === undefined) return <Page title={title} answer="Reading …" />;
  return <>{children(result.data)}</>;
}
