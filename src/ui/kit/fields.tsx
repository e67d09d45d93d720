'use client';
// Fields that several screens share: a labelled choice, a folder to be chosen, a tick with its label, and advice on a place.

import { probePlace, readPlace } from '@/wire/routes/settings';
import { useQuery } from '@tanstack/react-query';
import { AlertTriangle, Gauge, Info, ThumbsUp } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import styled from 'styled-components';
import type { ErrorShape } from '@/wire/jobs';
import type { LayoutView, PlaceView } from '@/wire/views';
import { color, radius, space } from '../theme/theme';
import { call, shapeOf } from './api';
import { Button, ErrorNotice, PlainButton, Row, Select, Soft, TextField } from './controls';
import { FolderChooser } from './FolderChooser';
import { useJob } from './work';

const Labelled = styled.label`
  display: flex;
  flex-direction: column;
  gap: ${space(1)};
  font-weight: 600;
  font-size: 13.5px;
  min-width: 0;
  select {
    font-weight: 400;
  }
`;

/** A choice of a few. */
export function Choose<T extends string>({
  label,
  value,
  onChange,
  options,
}: {
  label: string;
  value: T;
  onChange: (value: T) => void;
  options: readonly (readonly [T, string])[];
}) {
  return (
    <Labelled>
      {label}
      <Select value={value} onChange={(e) => onChange(e.target.value as T)}>
        {options.map(([id, name]) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
      </Select>
    </Labelled>
  );
}

const TickLabel = styled.label`
  display: flex;
  gap: ${space(2)};
  align-items: flex-start;
  cursor: pointer;
  min-height: 26px;
  input {
    margin-top: 4px;
  }
`;

/** One thing that is wanted or not. */
export function Tick({
  checked,
  onChange,
  children,
  label,
  disabled,
}: {
  checked: boolean;
  onChange: (checked: boolean) => void;
  children?: ReactNode;
  label?: string;
  disabled?: boolean;
}) {
  return (
    <TickLabel>
      <input
        type="checkbox"
        aria-label={label}
        checked={checked}
        disabled={disabled}
        onChange={(e) => onChange(e.target.checked)}
      />
      {children !== undefined && <span>{children}</span>}
    </TickLabel>
  );
}

/** A folder's path, typed or chosen. */
export function FolderField({
  label,
  value,
  onChange,
  title,
  description,
}: {
  label: string;
  value: string;
  onChange: (path: string) => void;
  title: string;
  description?: string;
}) {
  const [open, setOpen] = useState(false);
  return (
    <Row style={{ alignItems: 'flex-end' }}>
      <TextField
        label={label}
        mono
        value={value}
        onChange={onChange}
        {...(description ? { description } : {})}
      />
      <Button onPress={() => setOpen(true)}>Choose…</Button>
      {open && (
        <FolderChooser
          title={title}
          pick="folder"
          start={value || undefined}
          action="Take this folder"
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

/** A text that is shown as it is typed until the field is left, though what is kept of it is tidier; what `check` refuses is not handed on. */
export function DraftField({
  label,
  value,
  onChange,
  check,
  mono,
}: {
  label: string;
  value: string;
  onChange: (value: string) => void;
  check?: (value: string) => string | undefined;
  mono?: boolean;
}) {
  const [draft, setDraft] = useState<string | null>(null);
  const wrong = draft === null ? undefined : check?.(draft);
  return (
    <TextField
      label={label}
      value={draft ?? value}
      error={wrong}
      {...(mono ? { mono } : {})}
      onBlur={() => setDraft(null)}
      onChange={(next) => {
        setDraft(next);
        if (check?.(next) === undefined) onChange(next);
      }}
    />
  );
}

/** Layouts by name, the user's own first. */
export function LayoutField({
  layouts,
  value,
  onChange,
  label = 'Layout',
}: {
  layouts: readonly LayoutView[];
  value: string;
  onChange: (id: string) => void;
  label?: string;
}) {
  return (
    <Choose
      label={label}
      value={value}
      onChange={onChange}
      options={layouts.map((l) => [l.id, l.own ? `${l.name} (own)` : l.name] as const)}
    />
  );
}

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
  const [working, setWorking] = useState(false);
  const [problem, setProblem] = useState<ErrorShape | null>(null);
  const { data } = useQuery({
    queryKey: ['place', path],
    enabled: path !== '',
    staleTime: 60_000,
    queryFn: () => call(readPlace, {}, { path }),
  });
  const view = measured ?? data;
  if (!view) return null;
  const shown = quiet ? view.advice.filter((a) => a.level === 'warning') : view.advice;
  const probe = () => {
    setWorking(true);
    setProblem(null);
    run(probePlace, {}, { path: view.folder })
      .then(setMeasured, (cause: unknown) => setProblem(shapeOf(cause)))
      .finally(() => setWorking(false));
  };
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
          <PlainButton isDisabled={working} onPress={probe}>
            <Gauge size={15} /> {working ? 'Measuring …' : 'Measure its speed'}
          </PlainButton>
        </Row>
      )}
      {problem && <ErrorNotice error={problem} />}
    </AdviceFrame>
  );
}
