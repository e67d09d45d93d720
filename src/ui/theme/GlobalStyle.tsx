'use client';
// The ground every page stands on.

import { createGlobalStyle } from 'styled-components';
import { color, font, themeCss } from './theme';

export const GlobalStyle = createGlobalStyle`
  ${themeCss}
  *, *::before, *::after { box-sizing: border-box; }
  html, body { margin: 0; height: 100%; }
  body { background: ${color.paper}; color: ${color.ink}; font: 400 14.5px/1.45 ${font.text}; }
  h1 { font: 600 27px/1.2 ${font.title}; margin: 0; }
  h2 { font: 600 14px/1.4 ${font.text}; color: ${color.soft}; margin: 0; }
  h3 { font: 600 14.5px/1.4 ${font.text}; margin: 0; }
  p { margin: 0; }
  a { color: ${color.greenText}; font-weight: 600; text-decoration: none; }
  a:hover { text-decoration: underline; }
  code { font-family: ${font.mono}; font-size: 0.95em; }
  button { font: inherit; }
  input { accent-color: ${color.greenText}; }
  :focus-visible, [data-focus-visible] { outline: 2px solid ${color.saddle}; outline-offset: 2px; }
  ::selection { background: ${color.greenTint}; }
  @media (prefers-reduced-motion: reduce) { *, *::before, *::after { animation: none !important; transition: none !important; } }
`;
