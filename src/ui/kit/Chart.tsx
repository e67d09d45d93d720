'use client';
// A chart by ECharts, as SVG, loaded only where one is looked at. It is never the only way to what it shows: a list with the same content
// stands beside it.

import type { EChartsType } from 'echarts/core';
import { useEffect, useRef } from 'react';
import styled from 'styled-components';
import { color, radius } from '../theme/theme';

const Frame = styled.div`
  width: 100%;
  min-height: 200px;
  border: 1px solid ${color.line};
  border-radius: ${radius.medium};
  background: ${color.sheet};
  overflow: hidden;
`;

/** Colours as the theme has them now, for a chart that cannot read variables. */
export type Css = (name: string) => string;

interface Props {
  label: string;
  option: (css: Css) => object;
  height: number | string;
  onPick?: ((name: string) => void) | undefined;
}

async function start(host: HTMLElement): Promise<EChartsType> {
  const [core, charts, renderers, components] = await Promise.all([
    import('echarts/core'),
    import('echarts/charts'),
    import('echarts/renderers'),
    import('echarts/components'),
  ]);
  core.use([
    charts.SankeyChart,
    charts.TreemapChart,
    charts.LineChart,
    renderers.SVGRenderer,
    components.TooltipComponent,
    components.GridComponent,
    components.LegendComponent,
  ]);
  return core.init(host, null, { renderer: 'svg' });
}

export function Chart({ label, option, height, onPick }: Props) {
  const host = useRef<HTMLDivElement>(null);
  const chart = useRef<EChartsType | null>(null);
  const now = useRef({ option, onPick });
  const draw = () => {
    const css: Css = (name) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();
    chart.current?.setOption({ animation: false, ...now.current.option(css) }, { notMerge: true });
  };
  useEffect(() => {
    let ended = false;
    // The page may have let go of it by the time the charts are loaded, and this be told only then.
    const element = host.current!;
    const watch = new ResizeObserver(() => chart.current?.resize());
    const theme = window.matchMedia('(prefers-color-scheme: dark)');
    const attribute = new MutationObserver(draw);
    void start(element).then((c) => {
      if (ended) return c.dispose();
      chart.current = c;
      c.on('click', (e) => {
        const name = (e as { data?: { id?: string; name?: string } }).data;
        if (name) now.current.onPick?.(name.id ?? name.name ?? '');
      });
      watch.observe(element);
      draw();
    });
    theme.addEventListener('change', draw);
    attribute.observe(document.documentElement, { attributes: true, attributeFilter: ['data-theme'] });
    return () => {
      ended = true;
      watch.disconnect();
      attribute.disconnect();
      theme.removeEventListener('change', draw);
      chart.current?.dispose();
      chart.current = null;
    };
  }, []);
  useEffect(() => {
    now.current = { option, onPick };
    draw();
  }, [option, onPick]);
  return (
    <Frame role="img" aria-label={label}>
      <div ref={host} style={{ height, width: '100%' }} />
    </Frame>
  );
}
