'use client';
// How the next output of a scene is to be called, and where it goes: ready to be copied.

import { Check, Copy } from '../kit/icons';
import { useState } from 'react';
import Link from '../kit/Link';
import type { OutputsView } from '@/wire/views';
import { PlainButton } from '../kit/buttons';
import { Choose } from '../kit/fields';
import { Mono, Row, Sheet, Soft, Stack } from '../kit/layout';
import { useStepHref } from '../kit/work';

export function NextOutput({ view, scene: asked }: { view: OutputsView; scene: string }) {
  const href = useStepHref();
  const [picked, setPicked] = useState<string | null>(null);
  const [cameraPicked, setCamera] = useState<string | null>(null);
  const scene = view.scenes.find((s) => s.scene === (picked ?? asked)) ?? view.scenes[0];
  if (!scene) return null;
  const { names, folder } = scene.next;
  const next = names.find((n) => n.camera === cameraPicked) ?? names[0]!;
  return (
    <Sheet aria-label="The next output">
      <Stack $gap={3}>
        <h2>The next output</h2>
        <Row $gap={4} $wrap style={{ alignItems: 'flex-end' }}>
          <Choose
            label="Scene"
            mono
            value={scene.scene}
            onChange={setPicked}
            options={view.scenes.map((s) => [s.scene, s.scene] as const)}
          />
          {names.length > 1 && (
            <Choose
              label="Camera"
              value={next.camera}
              onChange={setCamera}
              options={names.map((n) => [n.camera, n.camera] as const)}
            />
          )}
        </Row>
        <Copied label="name" text={next.name} />
        <Copied label="folder" text={folder === '' ? 'the root' : folder} />
        <Soft>
          By the pattern in <Link href={href('/settings', { tab: 'names' })}>Settings</Link>
          {scene.cameras === null
            ? '; cameras of this format are not read.'
            : scene.cameras.length === 0
              ? '; this scene has no camera of its own.'
              : '.'}
        </Soft>
      </Stack>
    </Sheet>
  );
}

function Copied({ label, text }: { label: string; text: string }) {
  const [done, setDone] = useState(false);
  return (
    <Row $gap={2}>
      <Soft style={{ width: 52 }}>{label}</Soft>
      <Mono>{text}</Mono>
      <PlainButton
        aria-label={`Copy the ${label}`}
        onPress={() => {
          void navigator.clipboard.writeText(text).then(() => setDone(true));
          setTimeout(() => setDone(false), 2000);
        }}
      >
        {done ? <Check size={15} /> : <Copy size={15} />} {done ? 'Copied' : 'Copy'}
      </PlainButton>
    </Row>
  );
}
