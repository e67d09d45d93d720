'use client';
// The holding area: packs that wait, what is in one, what of it is like what is here already; take what is needed, clear the rest.

import { findAlike, listPackFiles, listPacks } from '@/wire/routes/intake';
import { useQuery } from '@tanstack/react-query';
import { useVirtualizer } from '@tanstack/react-virtual';
import {
  ArrowLeft,
  Box,
  Copy,
  File,
  FolderInput,
  Image as ImageIcon,
  Inbox,
  PackageOpen,
  Trash2,
} from 'lucide-react';
import { useMemo, useRef, useState } from 'react';
import styled from 'styled-components';
import { mayHavePicture } from '@/core/formats/kinds';
import { bytes, count, exactBytes } from '@/core/text/figures';
import type { ErrorShape } from '@/wire/jobs';
import type { PackFileView, PackView } from '@/wire/views';
import { call, query, shapeOf } from '../kit/api';
import {
  Button,
  Empty,
  ErrorNotice,
  Grow,
  MainButton,
  PlainButton,
  Row,
  Sheet,
  Soft,
  Stack,
} from '../kit/controls';
import { FolderChooser } from '../kit/FolderChooser';
import { useAddress, useJob, usePlan, useWorkspaceId } from '../kit/work';
import { color, font, space } from '../theme/theme';

const Line = styled.div`
  display: flex;
  align-items: center;
  gap: ${space(3)};
  padding: ${space(2)} 0;
  border-bottom: 1px solid ${color.line};
`;
const List = styled.div`
  height: max(320px, calc(100dvh - 400px));
  overflow: auto;
  position: relative;
  outline-offset: -2px;
`;
const rowHeight = 44;
const FileRow = styled.label`
  position: absolute;
  left: 0;
  right: 0;
  height: ${rowHeight}px;
  display: grid;
  grid-template-columns: 22px 40px minmax(0, 1fr) 92px minmax(0, 190px) 84px;
  gap: ${space(3)};
  align-items: center;
  border-bottom: 1px solid ${color.line};
  cursor: pointer;
  &:hover {
    background: ${color.raised};
  }
  &.folder {
    cursor: default;
    grid-template-columns: 22px minmax(0, 1fr);
    font-family: ${font.mono};
    font-size: 13.5px;
    color: ${color.soft};
    align-items: end;
    padding-bottom: 6px;
  }
  .number {
    text-align: right;
    font-variant-numeric: tabular-nums;
  }
  .name {
    font: 700 13.5px/1.25 ${font.mono};
    overflow-wrap: anywhere;
    max-height: 2.5em;
    overflow: hidden;
  }
  .said {
    font-size: 13px;
    line-height: 1.2;
    overflow: hidden;
  }
  .amber {
    color: ${color.amber};
  }
  .green {
    color: ${color.greenText};
  }
`;
const Thumb = styled.span`
  width: 36px;
  height: 36px;
  border-radius: 4px;
  border: 1px solid ${color.line};
  background: ${color.raised};
  display: inline-flex;
  align-items: center;
  justify-content: center;
  overflow: hidden;
  color: ${color.soft};
`;

const Picture = styled.img`
  width: 100%;
  height: 100%;
  object-fit: cover;
`;

/** A picture of the file where there is one, else the sign of its kind. */
function Small({ src, kind }: { src: string | null; kind: string }) {
  const [broken, setBroken] = useState(false);
  const Icon = kind === 'scene' || kind === 'model' ? Box : kind === 'texture' ? ImageIcon : File;
  return (
    <Thumb aria-hidden>
      {src !== null && !broken ? (
        <Picture alt="" loading="lazy" src={src} onError={() => setBroken(true)} />
      ) : (
        <Icon size={17} />
      )}
    </Thumb>
  );
}

export function IntakeView() {
  const id = useWorkspaceId();
  const [address, change] = useAddress();
  const pack = address.get('pack');
  const { data, error } = useQuery({
    queryKey: ['intake', id],
    queryFn: () => call(listPacks, { id }),
  });
  if (error) return <ErrorNotice error={shapeOf(error)} />;
  if (!data) return <Soft>Reading …</Soft>;
  return pack === null ? (
    <Packs home={data.home} packs={data.packs} open={(p) => change({ pack: p })} />
  ) : (
    <Pack key={pack} pack={pack} home={data.home} onClose={() => change({ pack: undefined })} />
  );
}

function Packs({ home, packs, open }: { home: string; packs: PackView[]; open: (pack: string) => void }) {
  const [chooser, setChooser] = useState<'folder' | 'bag' | null>(null);
  const [problem, setProblem] = useState<ErrorShape | null>(null);
  const plan = usePlan();
  const take = (from: string) => {
    setChooser(null);
    setProblem(null);
    plan({ kind: 'intake', from }).catch((cause: unknown) => setProblem(shapeOf(cause)));
  };
  const ways = (
    <Row $wrap>
      <Button onPress={() => setChooser('folder')}>
        <FolderInput size={15} /> A folder…
      </Button>
      <Button onPress={() => setChooser('bag')}>
        <PackageOpen size={15} /> A ZIP archive…
      </Button>
    </Row>
  );
  return (
    <Sheet aria-label="Packs in the holding area">
      <Stack>
        {problem && <ErrorNotice error={problem} />}
        <Row $wrap>
          <Grow>
            <h2>Waiting in {home}/</h2>
          </Grow>
          {packs.length > 0 && ways}
        </Row>
        {packs.length === 0 ? (
          <Empty action={ways}>
            Packs and downloads wait here until they are filed. Drop a folder or a ZIP on the window, or take
            one from disk.
          </Empty>
        ) : (
          packs.map((p) => (
            <Line key={p.path}>
              <Inbox size={16} aria-hidden />
              <Grow>
                <PlainButton onPress={() => open(p.path)} style={{ color: color.ink }}>
                  <strong>{p.name}</strong>
                </PlainButton>
                <br />
                <Soft>
                  {[
                    count(p.files, 'file'),
                    p.scenes > 0 ? count(p.scenes, 'scene') : '',
                    p.textures > 0 ? count(p.textures, 'texture') : '',
                    p.used > 0 ? `${p.used} in use` : 'nothing in use',
                  ]
                    .filter(Boolean)
                    .join(' · ')}
                </Soft>
              </Grow>
              <span title={exactBytes(p.bytes)}>{bytes(p.bytes)}</span>
              <Button aria-label={`See what is in ${p.name}`} onPress={() => open(p.path)}>
                See what is in it
              </Button>
            </Line>
          ))
        )}
        {chooser && (
          <FolderChooser
            title={chooser === 'folder' ? 'Which folder is the pack?' : 'Which ZIP archive?'}
            pick={chooser}
            action="Plan it"
            onClose={() => setChooser(null)}
            onChoose={([from]) => take(from!)}
          />
        )}
      </Stack>
    </Sheet>
  );
}

type Item = { folder: string } | PackFileView;

function Pack({ pack, home, onClose }: { pack: string; home: string; onClose: () => void }) {
  const id = useWorkspaceId();
  const plan = usePlan();
  const run = useJob();
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [problem, setProblem] = useState<ErrorShape | null>(null);
  const frame = useRef<HTMLDivElement>(null);
  const { data, error } = useQuery({
    queryKey: ['pack', id, pack],
    queryFn: () => call(listPackFiles, { id }, { pack }),
  });
  const alike = useQuery({
    queryKey: ['alike', id, pack, data?.files.length],
    enabled: data !== undefined && data.files.length > 0,
    staleTime: Infinity,
    queryFn: () => run(findAlike, { id }, { pack }),
  });
  const likes = useMemo(() => new Map((alike.data ?? []).map((a) => [a.path, a])), [alike.data]);
  const used = useMemo(() => new Set(data?.used), [data]);
  const items = useMemo(() => {
    const out: Item[] = [];
    let at = '';
    for (const f of data?.files ?? []) {
      const folder = f.path.slice(0, f.path.lastIndexOf('/'));
      if (folder !== at) out.push({ folder });
      at = folder;
      out.push(f);
    }
    return out;
  }, [data]);
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer's functions change with every scroll, as they must
  const virtual = useVirtualizer({
    count: items.length,
    getScrollElement: () => frame.current,
    estimateSize: () => rowHeight,
    overscan: 12,
  });
  if (error) return <ErrorNotice error={shapeOf(error)} />;
  if (!data) return <Soft>Reading …</Soft>;
  const name = pack.slice(pack.lastIndexOf('/') + 1);
  const attempt = (work: Promise<unknown>) => {
    setProblem(null);
    work.catch((cause: unknown) => setProblem(shapeOf(cause)));
  };
  const toggle = (path: string) => {
    const next = new Set(chosen);
    if (!next.delete(path)) next.add(path);
    setChosen(next);
  };
  const scenes = data.files.filter((f) => f.kind === 'scene' || f.kind === 'model');
  const rest = data.files.filter((f) => !used.has(f.path));
  return (
    <Sheet aria-label={`What is in ${name}`}>
      <Stack>
        {problem && <ErrorNotice error={problem} />}
        <Row $wrap>
          <PlainButton onPress={onClose}>
            <ArrowLeft size={15} /> {home}/
          </PlainButton>
          <Grow>
            <strong>{name}</strong>{' '}
            <Soft>
              {count(data.files.length, 'file')}, {bytes(data.files.reduce((s, f) => s + f.size, 0))}
              {alike.data && alike.data.length > 0 && (
                <> · {count(alike.data.length, 'file')} you have already</>
              )}
            </Soft>
          </Grow>
          {scenes.length > 0 && (
            <PlainButton onPress={() => setChosen(new Set(scenes.map((s) => s.path)))}>
              Choose its {count(scenes.length, 'scene')}
            </PlainButton>
          )}
          <Button
            isDisabled={rest.length === 0}
            onPress={() => attempt(plan({ kind: 'bin', paths: rest.map((f) => f.path) }))}
          >
            <Trash2 size={15} /> Clear {used.size > 0 ? 'the rest' : 'all'}…
          </Button>
          <MainButton
            isDisabled={chosen.size === 0}
            onPress={() => attempt(plan({ kind: 'take', paths: [...chosen] }))}
          >
            <PackageOpen size={16} /> Take {chosen.size > 0 ? chosen.size : ''} out…
          </MainButton>
        </Row>
        <Soft>
          Choose what you need: what a scene needs comes along by itself. Each file goes to the home of its
          kind, and the paths in scenes follow.
        </Soft>
        {data.files.length === 0 && <Empty>This pack is empty, or it was not read yet.</Empty>}
        <List ref={frame} tabIndex={0} role="group" aria-label="Files of the pack">
          <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
            {virtual.getVirtualItems().map((v) => {
              const item = items[v.index]!;
              if ('folder' in item)
                return (
                  <FileRow as="div" key={`f ${item.folder}`} className="folder" style={{ top: v.start }}>
                    <span />
                    <span>{item.folder.slice(home.length + 1)}/</span>
                  </FileRow>
                );
              const like = likes.get(item.path);
              const isPicture = item.kind === 'texture' && mayHavePicture(item.path);
              return (
                <FileRow key={item.path} style={{ top: v.start }}>
                  <input
                    type="checkbox"
                    aria-label={item.path}
                    checked={chosen.has(item.path)}
                    onChange={() => toggle(item.path)}
                  />
                  <Small
                    src={isPicture ? `/api/workspaces/${id}/picture${query({ path: item.path })}` : null}
                    kind={item.kind}
                  />
                  <span className="name" title={item.path}>
                    {item.path.slice(item.path.lastIndexOf('/') + 1)}
                  </span>
                  <Soft>{item.kind}</Soft>
                  <span className="said">
                    {used.has(item.path) && <span className="green">in use </span>}
                    {item.references > 0 && (
                      <>
                        {count(item.references, 'reference')}
                        {item.missing > 0 && <span className="amber">, {item.missing} missing</span>}
                      </>
                    )}
                    {like && (
                      <span className="amber" title={`${like.how} as ${like.like}`}>
                        <Copy size={12} aria-hidden /> {like.how} as{' '}
                        {like.like.slice(like.like.lastIndexOf('/') + 1)}
                      </span>
                    )}
                  </span>
                  <span className="number" title={exactBytes(item.size)}>
                    {bytes(item.size)}
                  </span>
                </FileRow>
              );
            })}
          </div>
        </List>
      </Stack>
    </Sheet>
  );
}
