'use client';
// A pattern of names with live examples: how they sort, and where they would be legal.

import { ArrowDown, CheckCircle2, XCircle } from '../kit/icons';
import { useWatch } from 'react-hook-form';
import styled from 'styled-components';
import { whereLegal } from '@/core/names/fileSystems';
import {
  checkPattern,
  examplesOf,
  tokens,
  tokensIn,
  type PatternValues,
  type Token,
} from '@/core/names/patterns';
import { FormText } from '../kit/form';
import { Mono, Row, Soft, Stack } from '../kit/layout';
import { color, space } from '../theme/theme';

/** The calendar day here and now. */
export function today(): PatternValues['date'] {
  const now = new Date();
  return { year: now.getFullYear(), month: now.getMonth() + 1, day: now.getDate() };
}

const Systems = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 2px ${space(4)};
  font-size: 13px;
  span {
    display: inline-flex;
    gap: 4px;
    align-items: center;
  }
  .bad {
    color: ${color.brick};
  }
`;

/** Where a name is legal, system by system. */
export function Legality({ name }: { name: string }) {
  return (
    <Systems role="group" aria-label="Legal on which systems">
      {whereLegal(name).map((s) =>
        s.wrong.length === 0 ? (
          <span key={s.id}>
            <CheckCircle2 size={14} color={color.greenText} aria-hidden />
            {s.system}
          </span>
        ) : (
          <span key={s.id} className="bad" title={s.wrong.join(' ')}>
            <XCircle size={14} aria-hidden />
            {s.system}: {s.wrong[0]}
          </span>
        ),
      )}
    </Systems>
  );
}

/** A pattern of a form, with its tokens; `values` fill the examples. */
export function FormPattern({
  name,
  label,
  values,
  extension = '',
  of = tokens,
  onTyped,
}: {
  name: string;
  label: string;
  values: PatternValues;
  extension?: string;
  /** The tokens that have a value here; another would leave a hole in the name. */
  of?: readonly Token[];
  onTyped?: (pattern: string) => void;
}) {
  const value: unknown = useWatch({ name });
  const pattern = typeof value === 'string' ? value : '';
  const wrong = [
    ...checkPattern(pattern),
    ...[...tokensIn(pattern)].filter((t) => !of.includes(t)).map((t) => `{${t}} stands for nothing here.`),
  ];
  const { names, sorts } = examplesOf(pattern, values);
  return (
    <Stack $gap={2}>
      <FormText
        name={name}
        label={label}
        mono
        check={() => wrong[0]}
        description={of.map((t) => (t === 'number' || t === 'version' ? `{${t}:3}` : `{${t}}`)).join(' ')}
        {...(onTyped ? { onTyped } : {})}
      />
      {wrong.length === 0 && (
        <>
          <Row>
            <ArrowDown size={15} aria-hidden style={{ flex: 'none' }} />
            <Soft>
              {sorts
                ? 'Sorted by name they stand in the order of time:'
                : 'Sorted by name they do not stand in the order of time:'}
            </Soft>
          </Row>
          <div style={{ paddingLeft: 23 }}>
            {(sorts ? names : [...names].sort()).map((n, i) => (
              <div key={i}>
                <Mono>
                  {n}
                  {extension}
                </Mono>
              </div>
            ))}
          </div>
          <Legality name={`${names[0]!}${extension}`} />
        </>
      )}
    </Stack>
  );
}
