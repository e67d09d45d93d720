'use client';
// What a scene can go back to, the newest first, each with its way back.

import {
  Archive,
  CircleDot,
  FileClock,
  GitCompareArrows,
  History,
  Images,
  TriangleAlert,
} from '../kit/icons';
import Link from '../kit/Link';
import styled from 'styled-components';
import { nameOf as lastPart } from '@/core/files/treePath';
import { ago, bytes, count, exactBytes, exactTime } from '@/core/text/figures';
import { PlainButton } from '../kit/buttons';
import { Tick } from '../kit/fields';
import { Soft } from '../kit/layout';
import { useStepHref } from '../kit/work';
import { color, font, space } from '../theme/theme';
import { keyOf, nameOf, type Entry } from './history';

/** Where there is no room beside a drawer, the table scrolls, not the page. */
const Wide = styled.div`
  overflow-x: auto;
  container-type: inline-size;
  @container (max-width: 760px) {
    .word,
    .size {
      display: none;
    }
  }
`;
const Table = styled.table`
  width: 100%;
  border-collapse: collapse;
  th {
    text-align: left;
    color: ${color.soft};
    font-size: 13.5px;
    font-weight: 600;
    padding: 0 ${space(3)} 6px 0;
    border-bottom: 1px solid ${color.line};
  }
  td {
    padding: 5px ${space(3)} 5px 0;
    border-bottom: 1px solid ${color.line};
  }
  td.name {
    font-family: ${font.mono};
    font-size: 13.5px;
    font-weight: 700;
    white-space: nowrap;
    max-width: 220px;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  td.note {
    overflow-wrap: break-word;
    min-width: 60px;
  }
  td.kept,
  td.other {
    font-family: ${font.text};
    font-weight: 400;
    color: ${color.soft};
  }
  .number {
    text-align: right;
    font-variant-numeric: tabular-nums;
    white-space: nowrap;
  }
  .broken {
    color: ${color.brick};
    font-weight: 600;
  }
  svg {
    vertical-align: -3px;
  }
`;

export interface HistoryActions {
  onBring: (entry: Entry) => void;
  onCompare: (entry: Entry) => void;
  picked: readonly string[];
  onPick: (path: string, wanted: boolean) => void;
}

export function HistoryTable({
  entries,
  scene,
  now,
  ...actions
}: HistoryActions & {
  entries: readonly Entry[];
  /** The present one. */
  scene: string;
  now: number;
}) {
  return (
    <Wide>
      <Table>
        <thead>
          <tr>
            <td style={{ width: 30 }} />
            <th className="number">No.</th>
            <th>What</th>
            <th>Note</th>
            <th className="number size">Size</th>
            <th className="number">Saved</th>
            <th className="number">Way back</th>
          </tr>
        </thead>
        <tbody>
          {entries.map((entry) => (
            <Line key={keyOf(entry)} entry={entry} scene={scene} now={now} {...actions} />
          ))}
        </tbody>
      </Table>
    </Wide>
  );
}

const day = 86_400_000;

/** What need not be said of a time of this year: '2026-'. */
const thisYear = (now: number) => `${new Date(now).getFullYear()}-`;

/** The whole of it, where only a part is shown. */
function titleOf(entry: Entry): string {
  if (entry.what === 'version') return entry.version.path;
  if (entry.what === 'other') return entry.save.path;
  return entry.state.files > 1 ? `with ${count(entry.state.files - 1, 'file')} of its own` : '';
}

/** What an entry is called, what is noted, and how large it is. */
function wordsOf(entry: Entry) {
  if (entry.what === 'version') {
    const { version } = entry;
    return {
      name: lastPart(version.path),
      note: [version.by, version.note && `“${version.note}”`].filter(Boolean).join(' · '),
      size: version.size,
    };
  }
  if (entry.what === 'kept') {
    const { state } = entry;
    return { name: 'kept by the net', note: '', size: state.size };
  }
  const { save } = entry;
  return {
    name: `saved by another program: ${lastPart(save.path)}`,
    note: `${Math.round(save.share * 100)} % alike`,
    size: save.size,
  };
}

function Mark({ entry }: { entry: Entry }) {
  if (entry.what === 'kept') return <CircleDot size={15} aria-hidden />;
  if (entry.what === 'other') return <FileClock size={15} aria-hidden />;
  return entry.version.compact ? <Archive size={15} aria-hidden /> : null;
}

function Line({
  entry,
  scene,
  now,
  onBring,
  onCompare,
  picked,
  onPick,
}: HistoryActions & { entry: Entry; scene: string; now: number }) {
  const href = useStepHref();
  const { name, note, size } = wordsOf(entry);
  const version = entry.what === 'version' ? entry.version : null;
  const isPresent = version?.path === scene;
  const broken = entry.what === 'kept' ? entry.state.broken : null;
  const canGoBack = !isPresent && (version === null || version.number !== null);
  return (
    <tr>
      <td>
        {version && !isPresent && version.number !== null && (
          <Tick
            label={`Choose ${name}`}
            checked={picked.includes(version.path)}
            onChange={(wanted) => onPick(version.path, wanted)}
          />
        )}
      </td>
      <td className="number">{version ? (version.number ?? '–') : ''}</td>
      <td className={version ? 'name' : `name ${entry.what}`} title={titleOf(entry)}>
        <Mark entry={entry} /> {name}
        {version?.compact && <Soft> kept compact</Soft>}
      </td>
      <td className="note">
        {broken !== null && (
          <span className="broken" title={broken}>
            <TriangleAlert size={15} aria-hidden /> broken{' '}
          </span>
        )}
        {note}
      </td>
      <td className="number size" title={exactBytes(size)}>
        {bytes(size)}
      </td>
      <td className="number" title={exactTime(entry.at)}>
        {now - entry.at < day ? ago(entry.at, now) : exactTime(entry.at).replace(thisYear(now), '')}
      </td>
      <td className="number">
        {isPresent && <Soft style={{ marginRight: 10 }}>present</Soft>}
        {version && (
          <Link
            href={href('/versions', { scene, view: 'outputs', of: version.path })}
            aria-label={`Outputs of ${name}`}
          >
            <Images size={15} /> <span className="word">Outputs</span>
          </Link>
        )}
        {!isPresent && (
          <PlainButton
            aria-label={`Compare ${nameOf(entry)} with the present`}
            onPress={() => onCompare(entry)}
          >
            <GitCompareArrows size={15} /> <span className="word">Compare</span>
          </PlainButton>
        )}
        {canGoBack && (
          <PlainButton aria-label={`Bring back ${nameOf(entry)}`} onPress={() => onBring(entry)}>
            <History size={15} /> <span className="word">Bring back…</span>
          </PlainButton>
        )}
      </td>
    </tr>
  );
}
