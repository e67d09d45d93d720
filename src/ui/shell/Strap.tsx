'use client';
// The strap: the steps of the work in their order, what stands beside them below.

import {
  ArrowLeftRight,
  Briefcase,
  Compass,
  FolderOpen,
  History,
  Layers,
  LifeBuoy,
  NotebookText,
  Settings2,
  ShoppingBasket,
  Spline,
  Users,
  Waypoints,
  Webhook,
} from '../kit/icons';
import Link from '../kit/Link';
import { usePathname } from 'next/navigation';
import styled from 'styled-components';
import { useOverview, useServerState, useStepHref } from '../kit/work';
import { color, font, radius, space } from '../theme/theme';
import { Me } from './Me';

const steps = [
  { href: '/', name: 'Workspaces', icon: Layers },
  { href: '/overview', name: 'Overview', icon: Compass },
  { href: '/files', name: 'Files', icon: FolderOpen },
  { href: '/references', name: 'References', icon: Spline },
  { href: '/map', name: 'Map', icon: Waypoints },
  { href: '/versions', name: 'Versions', icon: History },
  { href: '/collect', name: 'Collect', icon: ShoppingBasket },
  { href: '/carry', name: 'Carry over', icon: ArrowLeftRight },
  { href: '/travel', name: 'Travel', icon: Briefcase },
];
const managing = [
  { href: '/people', name: 'People', icon: Users },
  { href: '/pipelines', name: 'Pipelines', icon: Webhook },
];
const foot = [
  { href: '/ledger', name: 'Ledger', icon: NotebookText },
  { href: '/settings', name: 'Settings', icon: Settings2 },
  { href: '/help', name: 'Help', icon: LifeBuoy },
];

const Frame = styled.nav`
  grid-row: 1 / 3;
  background: ${color.strap};
  color: ${color.strapText};
  display: flex;
  flex-direction: column;
  padding: ${space(4)} ${space(3)} ${space(3)};
  position: relative;
  gap: 3px;
  overflow-y: auto;
  &::before,
  &::after {
    content: '';
    position: absolute;
    top: 0;
    bottom: 0;
    width: 2px;
    background: repeating-linear-gradient(180deg, ${color.strapLine} 0 7px, transparent 7px 12px);
  }
  &::before {
    left: 6px;
  }
  &::after {
    right: 6px;
  }
  .brand {
    font: 600 20px/1.2 ${font.title};
    padding: 0 ${space(3)};
  }
  .motto {
    color: ${color.strapSoft};
    font-size: 12px;
    line-height: 1.35;
    padding: ${space(1)} ${space(3)} ${space(4)};
  }
  .grow {
    flex: 1;
  }
`;
const Step = styled(Link)`
  display: flex;
  align-items: center;
  gap: ${space(2)};
  min-height: 34px;
  padding: 0 ${space(2)} 0 ${space(3)};
  border-radius: ${radius.small};
  color: ${color.strapText};
  font-weight: 500;
  z-index: 1;
  margin: 0 2px;
  &:hover {
    background: ${color.strapCount};
    text-decoration: none;
  }
  &[aria-current='page'] {
    background: ${color.strapActive};
    color: ${color.strapActiveText};
    font-weight: 700;
  }
  svg {
    flex: none;
  }
  .count {
    margin-left: auto;
    min-width: 24px;
    padding: 1px 6px;
    border-radius: 12px;
    background: ${color.strapCount};
    color: ${color.strapText};
    font-size: 12.5px;
    text-align: center;
    font-variant-numeric: tabular-nums;
  }
  &[aria-current='page'] .count {
    background: ${color.saddle};
    color: ${color.onSaddle};
  }
`;

export function Strap() {
  const pathname = usePathname();
  const href = useStepHref();
  const { data } = useOverview();
  const me = useServerState().data?.me ?? null;
  const attention = data ? data.references - data.ready : 0;
  const line = ({ href: to, name, icon: Icon }: (typeof steps)[number]) => (
    <Step key={to} href={href(to)} aria-current={pathname === to ? 'page' : undefined}>
      <Icon size={17} aria-hidden />
      {name}
      {name === 'References' && attention > 0 && (
        <span className="count" aria-label={`${attention} need attention`}>
          {attention < 1000 ? attention : `${Math.floor(attention / 1000)}k`}
        </span>
      )}
    </Step>
  );
  return (
    <Frame aria-label="Steps of the work">
      <div className="brand">Loyal Satchel</div>
      <div className="motto">
        everything packed,
        <br />
        nothing left behind
      </div>
      {steps.map(line)}
      <span className="grow" />
      {me?.role === 'manage' && managing.map(line)}
      {foot.map(line)}
      {me && <Me me={me} />}
    </Frame>
  );
}
