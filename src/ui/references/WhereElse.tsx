'use client';
// Where a written path leads: from the scene and from the root, on other machines, by a library's name.

import { CheckCircle2, CircleSlash, LibraryBig } from '../kit/icons';
import type { RepathChange } from '@/wire/jobs';
import type { Base, ReferenceDetail } from '@/wire/views';
import { PlainButton } from '../kit/buttons';
import { Grow, Mono, Row, Soft } from '../kit/layout';
import { Notice } from '../kit/notices';
import { color } from '../theme/theme';

/** Where the written path leads by one base. */
function BaseLine({ what, base }: { what: string; base: Base }) {
  return (
    <div style={{ marginTop: 4 }}>
      <Row>
        {base.there ? (
          <CheckCircle2 size={14} color={color.greenText} aria-label="found" />
        ) : (
          <CircleSlash size={14} color={color.soft} aria-label="nothing there" />
        )}
        <Soft>{what}</Soft>
      </Row>
      {base.resolves && <Mono style={{ fontSize: 12.5 }}>{base.resolves}</Mono>}
    </div>
  );
}

/** The two bases from which programs measure a relative path. */
export function TwoBases({ bases }: { bases: NonNullable<ReferenceDetail['bases']> }) {
  return (
    <div>
      <h2>The two bases</h2>
      <BaseLine what="from the scene’s folder" base={bases.scene} />
      <BaseLine what="from the root" base={bases.root} />
      {bases.disagree && (
        <Notice
          tone="amber"
          title={
            bases.scene.there
              ? 'The two disagree: each leads to another file.'
              : 'Only from the root something lies there.'
          }
        >
          The format measures from the scene’s folder. A program that measures from the root shows another
          result.
        </Notice>
      )}
    </div>
  );
}

/** The path under the other heads of its place; `onWrite` writes it so. */
export function OtherMachines({
  data,
  onWrite,
}: {
  data: ReferenceDetail;
  onWrite: (written: string) => void;
}) {
  return (
    <div>
      <h2>On other machines</h2>
      {data.elsewhere.map((e) => (
        <div key={e.place}>
          <Soft>
            {e.place}, here {e.head}
          </Soft>
          {e.others.map((o) => (
            <Row key={o.head} style={{ alignItems: 'flex-start' }}>
              <Grow>
                <Mono style={{ fontSize: 12.5 }}>{o.path}</Mono>
              </Grow>
              {o.written !== data.reference.written && (
                <PlainButton aria-label={`Write it as ${o.path}`} onPress={() => onWrite(o.written)}>
                  write it so…
                </PlainButton>
              )}
            </Row>
          ))}
        </div>
      ))}
    </div>
  );
}

export function OfLibrary({
  data,
  onWrite,
}: {
  data: ReferenceDetail;
  onWrite: (how: RepathChange) => void;
}) {
  const isByName = data.reference.oddities.includes('library-name');
  return (
    <div>
      <h2>Library {data.library}</h2>
      <PlainButton onPress={() => onWrite({ how: isByName ? 'absolute' : 'library' })}>
        <LibraryBig size={15} /> {isByName ? 'Write its path out…' : 'Write it by the library’s name…'}
      </PlainButton>
    </div>
  );
}
