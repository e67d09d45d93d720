'use client';
// On a server for several: what somebody else has just changed in the workspace that is looked at. The page shows it already; this says whose it was.

import { X } from '../kit/icons';
import { useState } from 'react';
import styled from 'styled-components';
import { IconButton } from '../kit/buttons';
import { Grow, Row } from '../kit/layout';
import { useServerState, useWork, useWorkspaceId } from '../kit/work';
import { color, radius, space } from '../theme/theme';

const Corner = styled.div`
  position: fixed;
  left: calc(188px + ${space(5)});
  bottom: ${space(5)};
  z-index: 24;
  display: grid;
  gap: ${space(2)};
  max-width: 420px;
`;
const Line = styled.div`
  background: ${color.slateTint};
  color: ${color.ink};
  border: 1px solid ${color.slate};
  border-radius: ${radius.medium};
  padding: ${space(2)} ${space(2)} ${space(2)} ${space(4)};
  box-shadow: 0 8px 30px ${color.shadow};
  overflow-wrap: anywhere;
`;
const most = 3;

export function News() {
  const id = useWorkspaceId();
  const me = useServerState().data?.me ?? null;
  const { jobs } = useWork();
  // Seen under way by this page: what had ended before it was opened is no news. Clocks of two machines would not tell.
  const [under, setUnder] = useState<ReadonlySet<string>>(new Set());
  const fresh = jobs.filter((j) => j.work === 'apply' && j.ended === null && !under.has(j.id));
  if (fresh.length > 0) setUnder(new Set([...under, ...fresh.map((j) => j.id)]));
  const [seen, setSeen] = useState<ReadonlySet<string>>(new Set());
  if (me === null || id === null) return null;
  const news = jobs.filter(
    (j) =>
      j.work === 'apply' &&
      j.state === 'done' &&
      j.workspace === id &&
      j.who !== null &&
      j.who !== me.name &&
      under.has(j.id) &&
      !seen.has(j.id),
  );
  return (
    <Corner role="log" aria-label="What others changed">
      {news.slice(-most).map((j) => (
        <Line key={j.id}>
          <Row>
            <Grow>
              <strong>{j.who}</strong>: {j.title}
            </Grow>
            <IconButton
              aria-label={`Seen: ${j.title}`}
              onPress={() => setSeen((all) => new Set([...all, j.id]))}
            >
              <X size={14} />
            </IconButton>
          </Row>
        </Line>
      ))}
    </Corner>
  );
}
