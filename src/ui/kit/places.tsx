'use client';
// Fields of places and layouts: a folder that is typed or chosen, what is to be said of a place, a layout by name.

import { probePlace, readPlace } from '@/wire/routes/settings';
import { useQuery } from '@tanstack/react-query';
import { AlertTriangle, Gauge, Info, ThumbsUp } from './icons';
import { useState } from 'react';
import styled from 'styled-components';
import type { LayoutView, PlaceView } from '@/wire/views';
import { color, radius, space } from '../theme/theme';
import { call } from './api';
import { useAttempt } from './attempt';
import { Button, PlainButton } from './buttons';
import { TextField } from './fields';
import { FolderChooser } from './FolderChooser';
import { Row, Soft } from './layout';
import { ErrorNotice } from './notices';
import { useJob } from './work';

/** The path of a folder or a bag, typed or chosen. */
export function FolderField({
  label,
  value,
  onChange,
  title,
  description,
  placeholder,
  pick = 'folder',
}: {
  label: string;
  value: string;
  onChange: (path: string) => void;
  /** Of the window in which it is chosen. */
  title: string;
  description?: string;
  placeholder?: string;
  pick?: 'folder' | 'bag';
}) {
  const [open, setOpen] = useState(false);
  return (
    <Row style={{ alignItems: 'flex-end' }}>
      <TextField
        label={label}
        mono
        value={value}
        onChange={onChange}
        description={description}
        placeholder={placeholder}
      />
      <Button aria-label={`Choose: ${label}`} onPress={() => setOpen(true)}>
        Choose…
      </Button>
      {open && (
        <FolderChooser
          title={title}
          pick={pick}
          start={value || undefined}
          action={pick === 'bag' ? 'Take this' : 'Take this folder'}
          onClose={() => setOpen(false)}
          onChoose={([path]) => {
            setOpen(false);
            onChange(path!);
          }}
        />
      )}
    </Row>
  );
}

/** Layouts to choose from, each by its name. */
export const layoutOptions = (layouts: readonly LayoutView[]) =>
  layouts.map((l) => [l.id, l.own ? `${l.name} (own)` : l.name] as const);

const AdviceLine = styled.div<{ $tone: string }>`
  display: grid;
  grid-template-columns: 18px minmax(0, 1fr);
  gap: ${space(2)};
  padding: 3px 0;
  overflow-wrap: anywhere;
  svg {
    color: ${(p) => p.$tone};
    margin-top: 3px;
  }
`;
const AdviceFrame = styled.div`
  border-left: 3px solid ${color.line};
  padding-left: ${space(3)};
  border-radius: ${radius.small};
`;
const looks = {
  warning: [AlertTriangle, color.amber],
  info: [Info, color.slate],
  good: [ThumbsUp, color.greenText],
} as const;

/** What is to be said of a place; measured on request. Nothing while it is not known. */
export function PlaceAdvice({ path, quiet }: { path: string; quiet?: boolean }) {
  const run = useJob();
  const [measured, setMeasured] = useState<PlaceView | null>(null);
  const { attempt, problem, busy } = useAttempt();
  const { data } = useQuery({
    queryKey: ['place', path],
    enabled: path !== '',
    staleTime: 60_000,
    queryFn: () => call(readPlace, {}, { path }),
  });
  const view = measured ?? data;
  if (!view) return null;
  const shown = quiet ? view.advice.filter((a) => a.level === 'warning') : view.advice;
  const probe = () => attempt(async () => setMeasured(await run(probePlace, {}, { path: view.folder })));
  if (quiet && shown.length === 0) return null;
  return (
    <AdviceFrame aria-label={`Advice on ${view.folder}`} role="group">
      {shown.map((a) => {
        const [Icon, tone] = looks[a.level];
        return (
          <AdviceLine key={a.code} $tone={tone}>
            <Icon size={15} aria-label={a.level === 'warning' ? 'warning' : 'note'} />
            <span>{a.message}</span>
          </AdviceLine>
        );
      })}
      {!quiet && (
        <Row $wrap>
          <Soft>{[view.signs.fileSystem, view.signs.mount].filter(Boolean).join(' at ')}</Soft>
          <PlainButton isPending={busy !== null} onPress={() => void probe()}>
            <Gauge size={15} /> {busy ? 'Measuring …' : 'Measure its speed'}
          </PlainButton>
        </Row>
      )}
      <ErrorNotice error={problem} />
    </AdviceFrame>
  );
}
