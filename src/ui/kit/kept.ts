// What was typed or chosen and is not done yet, kept for this window: it survives Back, a reload, and a plan that was only looked at. It belongs to the
// address it was typed at, so that two workspaces, two tabs of the settings or two folders do not share it; an applied plan forgets what led to it.

import { usePathname, useSearchParams } from 'next/navigation';
import { useCallback, useMemo, useState, useSyncExternalStore } from 'react';
import { z } from 'zod';

const prefix = 'satchel-kept ';
// What of an address says which thing is worked at; the rest only says how it is looked at.
const which = ['do', 'file', 'folder', 'layout', 'new', 'pack', 'tab', 'view', 'w'];

/** The part of a kept value's key that all of one place share. */
export function placeOf(pathname: string, params: URLSearchParams): string {
  const said = which.flatMap((k) => (params.get(k) ? [`${k}=${encodeURIComponent(params.get(k)!)}`] : []));
  return `${prefix}${pathname}?${said.join('&')} `;
}

/** Where the browser keeps nothing (storage full, or switched off), this does, until the next reload. */
const spare = new Map<string, string>();
const listeners = new Set<() => void>();
const tell = () => listeners.forEach((l) => l());

function read(key: string): string | null {
  if (spare.has(key)) return spare.get(key)!;
  try {
    return sessionStorage.getItem(key);
  } catch {
    return null;
  }
}

function write(key: string, value: string | null): void {
  spare.delete(key);
  try {
    if (value === null) sessionStorage.removeItem(key);
    else sessionStorage.setItem(key, value);
  } catch {
    if (value !== null) spare.set(key, value);
  }
  tell();
}

/** Forgets all that is kept of the place at an address of this application, such as `/settings?w=1&tab=names`. */
export function forgetKept(address: string): void {
  const { pathname, searchParams } = new URL(address, 'http://here');
  const place = placeOf(pathname, searchParams);
  const keys = [...spare.keys()];
  try {
    for (let i = 0; i < sessionStorage.length; i++) keys.push(sessionStorage.key(i)!);
  } catch {
    // Nothing is kept there, then.
  }
  for (const key of keys) if (key.startsWith(place)) write(key, null);
}

function parsed<S extends z.ZodType>(schema: S, text: string | null): z.output<S> | undefined {
  if (text === null) return undefined;
  try {
    const value = schema.safeParse(JSON.parse(text));
    return value.success ? value.data : undefined;
  } catch {
    return undefined;
  }
}

/**
 * A state that is kept, under a name of its own within the page. What is kept in another shape (an older version's) counts as nothing.
 * Setting undefined, or what it is to begin with, forgets it. The third tells what is kept now, also where the page is still drawn as it was before.
 */
export function useKept<S extends z.ZodType>(
  name: string,
  schema: S,
  initial: z.output<S>,
): [z.output<S>, (value: z.output<S> | undefined) => void, () => z.output<S>] {
  const key = `${placeOf(usePathname(), new URLSearchParams(useSearchParams()))}${name}`;
  const text = useSyncExternalStore(
    useCallback((listener: () => void) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    }, []),
    () => read(key),
    () => null,
  );
  // The same value for the same text, or whoever depends on it would run for ever.
  const [known] = useState(schema);
  const kept = useMemo(() => parsed(known, text), [known, text]);
  const begin = JSON.stringify(initial);
  const set = useCallback(
    (value: z.output<S> | undefined) => {
      const said = value === undefined ? undefined : JSON.stringify(value);
      write(key, said === undefined || said === begin ? null : said);
    },
    [key, begin],
  );
  const latest = (): z.output<S> => {
    const now = parsed(known, read(key));
    return now === undefined ? initial : now;
  };
  return [kept === undefined ? initial : kept, set, latest];
}

/** A kept state of texts, ticks and lists, of the shape it begins with; what is kept in another shape counts as nothing. */
export function useTyped<T>(name: string, initial: T): [T, (value: T | undefined) => void] {
  const [schema] = useState(() => z.custom<T>((value) => isAlike(value, initial)));
  const [value, set] = useKept(name, schema, initial);
  return [value, set];
}

function isAlike(value: unknown, model: unknown): boolean {
  if (Array.isArray(model)) return Array.isArray(value);
  if (typeof model !== 'object' || model === null) return model === null || typeof value === typeof model;
  if (typeof value !== 'object' || value === null) return false;
  return Object.entries(model).every(([k, m]) => isAlike((value as Record<string, unknown>)[k], m));
}
