'use client';
// The three things that are carried over: files, part of a scene, settings.

import { Boxes, FileStack, Scale } from '../kit/icons';
import type { ReactNode } from 'react';
import { Views } from '../kit/tabs';
import { useAddress } from '../kit/work';

export const carryViews = ['files', 'part', 'settings'] as const;
export type CarryView = (typeof carryViews)[number];

const views = [
  { id: 'files', name: 'Files', icon: FileStack },
  { id: 'part', name: 'Part of a scene', icon: Boxes },
  { id: 'settings', name: 'Settings side by side', icon: Scale },
] as const;

export function CarryViews({ chosen, children }: { chosen: CarryView; children: ReactNode }) {
  const [, change] = useAddress();
  return (
    <Views
      label="What is carried over"
      views={views}
      chosen={chosen}
      onChoose={(view) => change({ view: view === 'files' ? undefined : view })}
    >
      {children}
    </Views>
  );
}
