// One icon: lines on a grid of 24, in the color of the text around it. What it shows has a name only where it is given one.

import { createElement, type ComponentType, type SVGProps } from 'react';

export interface IconProps extends SVGProps<SVGSVGElement> {
  /** Pixels; 24 where it is not given. */
  size?: number | string;
}
export type IconType = ComponentType<IconProps>;

type Shape = readonly [element: string, attributes: Readonly<Record<string, string>>];

/** A component that draws these shapes. */
export function icon(shapes: readonly Shape[]): IconType {
  const drawn = shapes.map(([element, attributes], key) => createElement(element, { ...attributes, key }));
  return function Icon({ size = 24, ...rest }) {
    const hasName = 'aria-label' in rest || 'aria-labelledby' in rest || 'title' in rest || 'role' in rest;
    return (
      <svg
        xmlns="http://www.w3.org/2000/svg"
        width={size}
        height={size}
        viewBox="0 0 24 24"
        fill="none"
        stroke="currentColor"
        strokeWidth={2}
        strokeLinecap="round"
        strokeLinejoin="round"
        aria-hidden={hasName ? undefined : true}
        {...rest}
      >
        {drawn}
      </svg>
    );
  };
}
