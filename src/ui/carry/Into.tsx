'use client';
// Into the open workspace: kept folders or homes, and what to do where a name is taken, for all and for each.

import styled from 'styled-components';
import { nameOf } from '@/core/files/treePath';
import { count } from '@/core/text/figures';
import type { CarryLook } from '@/wire/collect';
import { Chip } from '../kit/buttons';
import { Radios } from '../kit/fields';
import { Mono, Row, Sheet, Soft, Stack } from '../kit/layout';
import { color, radius, space } from '../theme/theme';

type Way = 'both' | 'replace' | 'target';
export interface Ways {
  all: Way;
  /** Of single ones, where it is another. */
  own: Record<string, Way>;
}

const words: readonly (readonly [Way, string])[] = [
  ['both', 'keep both'],
  ['target', 'use what is there'],
  ['replace', 'replace what is there'],
];

export const Taken = styled.div`
  border: 1px solid ${color.amber};
  background: ${color.amberTint};
  border-radius: ${radius.small};
  padding: ${space(2)} ${space(3)};
  overflow-wrap: anywhere;
`;
const most = 100;

export function Into({
  name,
  flat,
  onFlat,
  clashes,
  ways,
  onWays,
}: {
  name: string;
  flat: boolean;
  onFlat: (flat: boolean) => void;
  clashes: CarryLook['clashes'];
  ways: Ways;
  onWays: (ways: Ways) => void;
}) {
  return (
    <Sheet aria-label="Into" style={{ minHeight: 0, overflow: 'auto' }}>
      <Stack>
        <h2>Into {name}</h2>
        <Radios
          label="Where it will lie"
          value={flat ? 'flat' : 'kept'}
          onChange={(v) => onFlat(v === 'flat')}
          options={[
            { id: 'kept', name: 'In the same folders as there', content: 'In the same folders as there' },
            { id: 'flat', name: 'In the homes of each kind here', content: 'In the homes of each kind here' },
          ]}
        />
        {clashes.length === 0 ? (
          <Soft>No name is taken by another file.</Soft>
        ) : (
          <>
            <h2>{clashes.length === 1 ? 'A name is taken' : `${count(clashes.length, 'name')} are taken`}</h2>
            {clashes.length > 1 && (
              <Row $wrap role="group" aria-label="For all of them">
                <Soft>All:</Soft>
                {words.map(([way, said]) => (
                  <Chip
                    key={way}
                    isSelected={ways.all === way && Object.keys(ways.own).length === 0}
                    onChange={() => onWays({ all: way, own: {} })}
                  >
                    {said}
                  </Chip>
                ))}
              </Row>
            )}
            {clashes.slice(0, most).map((c) => {
              const way = ways.own[c.from] ?? ways.all;
              return (
                <Taken key={c.from} role="group" aria-label={`${c.there} is another file`}>
                  <Mono style={{ fontWeight: 700 }}>{c.there}</Mono> is another file here.
                  {c.isForced ? (
                    <div>
                      Its files differ in spelling alone: it comes as <Mono>{c.both}</Mono>.
                    </div>
                  ) : (
                    <Row $wrap style={{ marginTop: 6 }}>
                      {words.map(([id, said]) => (
                        <Chip
                          key={id}
                          isSelected={way === id}
                          onChange={() => onWays({ ...ways, own: { ...ways.own, [c.from]: id } })}
                        >
                          {id === 'both' ? `as ${nameOf(c.both)}` : said}
                        </Chip>
                      ))}
                    </Row>
                  )}
                </Taken>
              );
            })}
            {clashes.length > most && <Soft>and {clashes.length - most} more, which go as all do</Soft>}
          </>
        )}
      </Stack>
    </Sheet>
  );
}
