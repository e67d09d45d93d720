// The canvas that a scene is drawn on: how it looks, and what it is to ears and keys.

import { css } from 'styled-components';

export const canvasLook = css`
  canvas {
    display: block;
    width: 100%;
    height: 100%;
    outline-offset: -3px;
    cursor: grab;
    touch-action: none;
  }
`;

/** A canvas as the first thing in `host`, that takes the focus and says what is on it. */
export function canvasIn(host: HTMLElement, said: string): HTMLCanvasElement {
  const canvas = document.createElement('canvas');
  canvas.tabIndex = 0;
  canvas.setAttribute('role', 'img');
  canvas.setAttribute('aria-label', said);
  host.prepend(canvas);
  return canvas;
}

/** A colour of the theme as it is now. */
export const themeColour = (name: string): string =>
  getComputedStyle(document.documentElement).getPropertyValue(name).trim();
