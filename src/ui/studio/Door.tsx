'use client';
// The page that somebody sees who is not in yet: one sheet, with what it takes to come in.

import type { ReactNode } from 'react';
import styled from 'styled-components';
import { Stack } from '../kit/layout';
import { color, font, radius, space } from '../theme/theme';

const Ground = styled.main`
  min-height: 100dvh;
  display: grid;
  place-items: center;
  padding: ${space(6)};
`;
const Card = styled.section`
  width: min(440px, 100%);
  background: ${color.sheet};
  border: 1px solid ${color.line};
  border-radius: ${radius.medium} ${radius.tag} ${radius.tag} ${radius.medium};
  padding: ${space(6)} ${space(7)};
  position: relative;
  &::before {
    content: '';
    position: absolute;
    top: ${space(3)};
    bottom: ${space(3)};
    left: 10px;
    width: 2px;
    background: repeating-linear-gradient(180deg, ${color.lineStrong} 0 7px, transparent 7px 12px);
  }
  .brand {
    color: ${color.soft};
    font: 600 15px ${font.title};
  }
  h1 {
    font: 600 25px/1.2 ${font.title};
    margin: 0;
  }
`;

export function Door({ title, children }: { title: string; children: ReactNode }) {
  return (
    <Ground>
      <Card>
        <Stack $gap={4}>
          <div>
            <div className="brand">Loyal Satchel</div>
            <h1>{title}</h1>
          </div>
          {children}
        </Stack>
      </Card>
    </Ground>
  );
}
