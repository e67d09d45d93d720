// The states of a reference, as users see them, the most urgent first: everything that is sorted by state goes by this order.

export const states = [
  'missing',
  'offline',
  'case',
  'outside',
  'absolute',
  'remote',
  'library',
  'travels',
] as const;
export type ReferenceState = (typeof states)[number];
