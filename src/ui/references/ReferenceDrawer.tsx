'use client';
// One reference in full: what it is, the chain it hangs on, who else uses the file, what to do. Width is remembered.

import { useQuery } from '@tanstack/react-query';
import { Briefcase, Copy, X } from 'lucide-react';
import { useEffect, useState } from 'react';
import styled from 'styled-components';
import type { ReferenceDetail } from '@/wire/views';
import { get, query, shapeOf } from '../kit/api';
import { ErrorNotice, Grow, IconButton, MainButton, Mono, PlainButton, Row, Soft, Stack, StateMark } from '../kit/controls';
import { bytes, count } from '@/core/text/figures';
import { color, font, space } from '../theme/theme';

const Frame = styled.aside`
  border-left: 1px solid ${color.line}; background: ${color.sheet}; overflow: auto; padding: ${space(5)} ${space(5)}; position: relative; flex: none; height: 100%;
  h2 { margin-bottom: 2px; }
`;
const Handle = styled.div`
  position: absolute; left: 0; top: 0; bottom: 0; width: 7px; cursor: ew-resize; touch-action: none;
  &:hover, &:focus-visible { background: ${color.line}; }
`;
const Picture = styled.img`width: 100%; max-height: 210px; object-fit: contain; border-radius: 8px; border: 1px solid ${color.line}; background: ${color.raised}; image-rendering: auto;`;
const Stripes = styled.div`
  height: 118px; border-radius: 8px; background: repeating-linear-gradient(135deg, ${color.stripe} 0 20px, ${color.stripeInk} 20px 40px); display: flex; align-items: flex-end; padding: ${space(2)};
  span { background: ${color.stripeInk}; color: #fffdf8; font: 700 13px ${font.mono}; padding: 2px 8px; border-radius: 4px; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
`;
const Chain = styled.ol`
  list-style: none; margin: 0; padding: 0;
  li { position: relative; padding: 0 0 ${space(2)} ${space(5)}; overflow-wrap: anywhere; }
  li::before { content: ''; position: absolute; left: 1px; top: 6px; width: 8px; height: 8px; border: 2px solid ${color.soft}; border-radius: 50%; }
  li:not(:last-child)::after { content: ''; position: absolute; left: 5px; top: 17px; bottom: -4px; width: 2px; background: repeating-linear-gradient(180deg, ${color.lineStrong} 0 4px, transparent 4px 7px); }
  li.broken { color: ${color.brick}; } li.broken::before { border-color: ${color.brick}; }
`;

const widthKey = 'satchel-drawer';

/** The file as a picture; where it is none, that is said. */
function Preview({ name, src }: { name: string; src: string }) {
  const [broken, setBroken] = useState(false);
  if (broken) return <Soft style={{ overflowWrap: 'anywhere' }}>{name} cannot be shown as a picture: it is damaged, or no picture at all.</Soft>;
  return <Picture alt={`Picture of ${name}`} src={src} onError={() => setBroken(true)} />;
}

export function ReferenceDrawer({ workspace, of, onClose, onMend }: { workspace: string; of: { scene: string; at: string }; onClose: () => void; onMend: () => void }) {
  const [width, setWidth] = useState(330);
  useEffect(() => {
    const kept = Number(localStorage.getItem(widthKey));
    // eslint-disable-next-line react-hooks/set-state-in-effect -- the kept width is known only in the browser
    if (kept) setWidth(kept);
  }, []);
  const resize = (to: number) => {
    const next = Math.max(280, Math.min(640, to));
    setWidth(next);
    localStorage.setItem(widthKey, String(next));
  };
  const { data, error } = useQuery({ queryKey: ['reference', workspace, of], queryFn: () => get<ReferenceDetail>(`/api/workspaces/${workspace}/reference${query(of)}`) });
  const r = data?.reference;
  const name = (r?.target ?? r?.written ?? of.at).split(/[\\/]/).pop() ?? '';
  return (
    <Frame style={{ width }} aria-label="The reference in full">
      <Handle role="separator" aria-orientation="vertical" aria-label="Width of this drawer" aria-valuenow={width} aria-valuemin={280} aria-valuemax={640} tabIndex={0}
        onKeyDown={(e) => { if (e.key === 'ArrowLeft') resize(width + 20); else if (e.key === 'ArrowRight') resize(width - 20); }}
        onPointerDown={(e) => {
          const [from, start] = [e.clientX, width];
          const drag = (m: PointerEvent) => resize(start + from - m.clientX);
          window.addEventListener('pointermove', drag);
          window.addEventListener('pointerup', () => window.removeEventListener('pointermove', drag), { once: true });
        }} />
      <Stack>
        <Row><Grow><h3 style={{ overflowWrap: 'anywhere' }}>{name}</h3></Grow><IconButton aria-label="Close" onPress={onClose}><X size={17} /></IconButton></Row>
        {error && <ErrorNotice error={shapeOf(error)} />}
        {r && data && <>
          {r.target === null ? <Stripes role="img" aria-label="Not found"><span>{name}</span></Stripes>
            : data.preview && <Preview key={`${of.scene} ${of.at}`} name={name} src={`/api/workspaces/${workspace}/preview${query(of)}`} />}
          <Row><StateMark state={r.state} odd={r.oddities.length > 0} /><Soft>{r.kind}{r.targets > 1 && ` · ${count(r.targets, 'file')}`}{r.size !== null && ` · ${bytes(r.size)}`}</Soft></Row>
          <p>{data.advice}</p>
          {r.state !== 'travels' || r.oddities.length > 0 ? (r.state !== 'offline' && r.state !== 'remote' && r.state !== 'library' && <Row><MainButton onPress={onMend}><Briefcase size={15} /> Make it travel…</MainButton></Row>) : null}
          <div><h2>The chain</h2><Chain>
            {data.chain.map((c) => <li key={c}>{c}</li>)}
            <li className={r.target === null ? 'broken' : ''}><Mono>{r.written}</Mono></li>
          </Chain></div>
          <div><h2>Where it is used</h2>{r.uses.slice(0, 8).map((u) => <div key={u}>{u}</div>)}<Soft style={{ fontSize: 13 }}>{r.at}</Soft></div>
          {data.fullTarget && <div><h2>What it resolves to</h2><Row><Grow><Mono>{data.fullTarget}</Mono></Grow><PlainButton aria-label="Copy the full path" onPress={() => void navigator.clipboard.writeText(data.fullTarget!)}><Copy size={15} /></PlainButton></Row></div>}
          {data.users.length > 0 && <div><h2>Also used by</h2>{data.users.slice(0, 6).map((u) => <div key={`${u.scene}${u.at}`}>{u.scene}</div>)}{data.users.length > 6 && <Soft>and {count(data.users.length - 6, 'more place')}</Soft>}</div>}
          {data.neighbours.length > 0 && <div><h2>Beside it on disk</h2>{data.neighbours.map((n) => <div key={n}><Mono>{n}</Mono></div>)}</div>}
        </>}
      </Stack>
    </Frame>
  );
}
