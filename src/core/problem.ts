// A finding about a user's file. Problems are returned and listed, never thrown: one bad file must not hide the rest.

/** Byte span in a file: start inclusive, end exclusive. */
export type Span = readonly [start: number, end: number];

/** Something found in a file or folder that the user should know about. `span` is in bytes of the file at `path`. */
export interface Problem {
  code: string;
  message: string;
  path?: string;
  span?: Span;
}
