'use client';
// What a plan does to readiness and to the disk.

import { ArrowRight } from '../kit/icons';
import styled from 'styled-components';
import { bytes, exactBytes } from '@/core/text/figures';
import type { PlanView } from '@/wire/views';
import { Sheet, Soft } from '../kit/layout';
import { color, font, space } from '../theme/theme';

const Figures = styled.div`
  display: flex;
  gap: ${space(8)};
  flex-wrap: wrap;
  .value {
    font: 600 19px ${font.title};
  }
  .label {
    color: ${color.soft};
    font-weight: 600;
    font-size: 13.5px;
  }
`;
export function PlanFigures({ plan: p }: { plan: PlanView }) {
  return (
    <Sheet>
      <Figures>
        {p.readiness && (
          <div>
            <div className="label">Opens elsewhere</div>
            <div className="value">
              {p.readiness.before} <ArrowRight size={15} aria-label="then" /> {p.readiness.after}{' '}
              <Soft style={{ font: `400 14px ${font.text}` }}>of {p.readiness.of}</Soft>
            </div>
          </div>
        )}
        <div>
          <div className="label">{p.grows < 0 ? 'Workspace shrinks by' : 'Workspace grows by'}</div>
          <div className="value" title={exactBytes(Math.abs(p.grows))}>
            {bytes(Math.abs(p.grows))}
          </div>
        </div>
        <div>
          <div className="label">Free here</div>
          <div className="value">{bytes(p.free)}</div>
        </div>
      </Figures>
    </Sheet>
  );
}
