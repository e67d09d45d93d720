'use client';
// The layout of a new workspace: one of the library, or a text of its own.

import { Upload } from '../kit/icons';
import { FileTrigger } from 'react-aria-components';
import type { LayoutView } from '@/wire/views';
import { Button } from '../kit/buttons';
import { Radios } from '../kit/fields';
import { Row, Sheet, Soft, Stack } from '../kit/layout';
import { LayoutText } from '../layouts/LayoutText';

/** The choice that means the text. */
export const ownLayout = 'own';

const told = (name: string, about: string) => (
  <>
    <strong>{name}</strong>
    <br />
    <Soft>{about}</Soft>
  </>
);

export function LayoutChoice({
  layouts,
  chosen,
  own,
  onChoose,
  onOwn,
}: {
  layouts: readonly LayoutView[];
  chosen: string;
  own: string;
  onChoose: (layout: string) => void;
  onOwn: (text: string) => void;
}) {
  return (
    <Sheet>
      <Stack $gap={2}>
        <h2>Layout</h2>
        <Radios
          framed
          label="Layout"
          value={chosen}
          onChange={onChoose}
          options={[
            ...layouts.map((l) => ({ id: l.id, content: told(l.name, l.about) })),
            {
              id: ownLayout,
              content: told(
                'From a text',
                'One folder per line; indent or / nests. “textures = texture” makes it the home of textures.',
              ),
            },
          ]}
        />
        {chosen === ownLayout && (
          <>
            <LayoutText
              label="Layout text"
              value={own}
              onChange={onOwn}
              height="240px"
              placeholder={'scenes = scene\ntextures = texture\n  work\nrenders/stills = render'}
            />
            <Row>
              <FileTrigger
                acceptedFileTypes={['.txt', 'text/plain']}
                onSelect={(files) => void files?.[0]?.text().then(onOwn)}
              >
                <Button>
                  <Upload size={15} /> From a file…
                </Button>
              </FileTrigger>
            </Row>
          </>
        )}
      </Stack>
    </Sheet>
  );
}
