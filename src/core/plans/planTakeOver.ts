// Settings of one workspace, or scene, taken over by another: the ticked ones, and nothing else.

import { planPieces, type Note, type Plan, type Step } from '../changes/plan';
import { blanked, headOf } from '../documents/usdPrims';
import { AppError } from '../errors';
import { nameOf, type TreePath } from '../files/treePath';
import type { FormatId } from '../formats/format';
import { decodeMarkup, eachMarkup, localName, openMarkup, spanOf } from '../formats/markup';
import { metadataAt, sceneTakes } from '../settings/sceneSettings';
import { takenOver } from '../settings/workspaceSettings';
import { latin1, toLatin1, utf8 } from '../text/bytes';
import { piecesOf, sizeOfPieces, type Edit } from '../text/edits';
import { count } from '../text/figures';
import { sceneUnits, sceneUnitText } from '../units/sceneUnits';
import { unitName, unitOfMetres } from '../units/units';
import { markerStep, type MarkedWorkspace } from './marker';
import { planHomes } from './planHomes';
import { stateOf, type Workspace } from './workspace';

/** Takes over what a workspace says of itself. Files move with their homes, as they do when a home is changed by hand. */
export async function planTakeOver(
  into: MarkedWorkspace,
  from: Pick<MarkedWorkspace, 'file'>,
  keys: ReadonlySet<string>,
): Promise<Plan> {
  const { file, homes } = takenOver(into.file, from.file, keys);
  const moved = Object.keys(homes).length > 0 ? await planHomes({ ...into, file }, homes) : null;
  const own = moved ? null : await markerStep(into, file);
  const steps: Step[] = moved ? [...moved.steps] : own ? [own] : [];
  return {
    ...(moved ?? { paths: [], readiness: null }),
    kind: 'take-over',
    title: `Take over ${count(keys.size, 'setting')} of ${from.file.name}`,
    steps,
    notes: [...(moved?.notes ?? []), ...(steps.length === 0 ? [nothing] : [])],
  };
}

const nothing: Note = { level: 'info', code: 'nothing', message: 'It is so already.' };

export interface SceneToTake {
  /** In the target's tree. */
  into: TreePath;
  /** What it is taken from: its name, its format, its bytes. */
  from: { name: string; format: FormatId; bytes: Uint8Array };
  keys: ReadonlySet<string>;
}

/** Takes over what a scene says of itself; its geometry stays as it is. */
export async function planTakeOverScene(
  { tree }: Workspace,
  request: SceneToTake,
  format: FormatId,
): Promise<Plan> {
  const { into, from, keys } = request;
  const before = await stateOf(tree, into);
  if (!before) throw new AppError('not-found', `${into} is not there.`);
  const bytes = await tree.read(into);
  const notes: Note[] = [];
  const edits: Edit[] = [];
  for (const key of keys) {
    if (!sceneTakes(format, key))
      throw new AppError('unsupported', `${nameOf(into)} has no word for this setting.`);
    const edit = format === 'usda' ? usdEdit(bytes, from, key) : markupEdit(bytes, from, key, format);
    if (edit) edits.push(edit);
    else
      notes.push({
        level: 'warning',
        code: 'cannot-say',
        message: `${nameOf(into)} cannot take “${key}” over: there is no place for it.`,
      });
  }
  if (keys.has('unit') || keys.has('up'))
    notes.push({
      level: 'warning',
      code: 'measured-anew',
      message: `Only what ${nameOf(into)} says of its unit and axis changes; its geometry stays as it is, and will be read larger, smaller or turned.`,
      path: into,
    });
  const pieces = piecesOf(edits, bytes.length);
  const steps: Step[] =
    edits.length === 0
      ? []
      : [
          {
            do: 'put',
            path: into,
            before,
            size: sizeOfPieces(pieces),
            modified: null,
            from: { from: 'tree', path: into, state: before, pieces: planPieces(pieces) },
          },
        ];
  return {
    kind: 'take-over',
    title: `Take over ${count(keys.size, 'setting')} of ${from.name} into ${nameOf(into)}`,
    steps,
    notes: steps.length === 0 ? [...notes, nothing] : notes,
    paths: [],
    readiness: null,
  };
}

/** A key of the layer's metadata, in the words of the other layer, or for its unit and axis in USD's. */
function usdEdit(bytes: Uint8Array, from: SceneToTake['from'], key: string): Edit | null {
  const word = { unit: 'metersPerUnit', up: 'upAxis' }[key] ?? key;
  const value = usdValue(from, key, word);
  if (value === null) return null;
  const text = latin1(bytes);
  const bare = blanked(text);
  const at = metadataAt(bare, word);
  if (at) return { span: at, bytes: toLatin1(value)! };
  const end = text.includes('\r\n') ? '\r\n' : '\n';
  const head = headOf(bare);
  if (head) {
    const isOpen = /^\s*$/.test(bare.slice(...head));
    return { span: [head[0], head[0]], bytes: toLatin1(`${end}    ${word} = ${value}${isOpen ? end : ''}`)! };
  }
  const line = /^#usda[^\r\n]*(?:\r?\n)?/.exec(text);
  if (!line) return null;
  const place = line[0].length;
  return {
    span: [place, place],
    bytes: toLatin1(`${/\n$/.test(line[0]) ? '' : end}(${end}    ${word} = ${value}${end})${end}`)!,
  };
}

function usdValue(from: SceneToTake['from'], key: string, word: string): string | null {
  const units = sceneUnits(from.format, from.bytes.subarray(0, 64 * 1024));
  if (key === 'unit') return units?.metres == null ? null : String(units.metres);
  if (key === 'up') return units?.upAxis && units.upAxis !== 'X' ? `"${units.upAxis}"` : null;
  if (from.format !== 'usda') return null;
  const text = latin1(from.bytes);
  const at = metadataAt(blanked(text), word);
  return at ? text.slice(...at) : /PerSecond$/.test(word) ? '24' : null;
}

/** COLLADA's unit and axis; a word of MaterialX's document. */
function markupEdit(
  bytes: Uint8Array,
  from: SceneToTake['from'],
  key: string,
  format: FormatId,
): Edit | null {
  const units = sceneUnits(from.format, from.bytes.subarray(0, 64 * 1024));
  const m = openMarkup(bytes);
  if (m.width !== 1) return null;
  let edit: Edit | null = null;
  const path: string[] = [];
  const value = format === 'mtlx' ? rootAttribute(from.bytes, key) : null;
  eachMarkup(m, {
    open(full, attributes, at) {
      path.push(localName(full));
      const find = (name: string) => attributes.find((a) => localName(a.name) === name);
      if (format === 'mtlx' && path.length === 1 && value !== null) {
        const a = find(key);
        const text = utf8(value.replaceAll('&', '&amp;').replaceAll('"', '&quot;').replaceAll('<', '&lt;'));
        const tag = at + 1 + full.length;
        edit = a
          ? { span: spanOf(m, a.from, a.to), bytes: text }
          : { span: [tag, tag], bytes: utf8(` ${key}="${latin1(text)}"`) };
      }
      // A unit stands before the axis (COLLADA 1.4.1 schema, asset).
      if (format === 'dae' && key === 'unit' && path.slice(1).join('/') === 'asset/up_axis')
        edit ??= unitElement(units?.metres ?? null, at);
      if (
        format !== 'dae' ||
        path.slice(1).join('/') !== 'asset/unit' ||
        key !== 'unit' ||
        units?.metres == null
      )
        return;
      const meter = find('meter');
      const name = find('name');
      const tag = at + 1 + full.length;
      // The name goes with the number, or it would tell another unit.
      const called = oneUnit(units.metres);
      const [start, end] = [
        Math.min(meter?.from ?? tag, name?.from ?? tag),
        Math.max(meter?.to ?? tag, name?.to ?? tag),
      ];
      const old = latin1(bytes.subarray(start, end));
      if (!meter) edit = { span: [tag, tag], bytes: utf8(` meter="${units.metres}"`) };
      else {
        const parts = [
          { from: meter.from - start, to: meter.to - start, text: String(units.metres) },
          ...(name ? [{ from: name.from - start, to: name.to - start, text: called }] : []),
        ].sort((a, b) => b.from - a.from);
        const text = parts.reduce((t, p) => t.slice(0, p.from) + p.text + t.slice(p.to), old);
        edit = { span: [start, end], bytes: toLatin1(text)! };
      }
    },
    text(from, to) {
      if (format === 'dae' && key === 'up' && units?.upAxis && path.slice(1).join('/') === 'asset/up_axis') {
        const old = decodeMarkup(m, from, to).text;
        edit = { span: spanOf(m, from, to), bytes: utf8(old.replace(/[XYZ]_UP/, `${units.upAxis}_UP`)) };
      }
    },
    close(_, at) {
      // An asset that does not say it says it at its end.
      if (format === 'dae' && path.slice(1).join('/') === 'asset' && edit === null) {
        const isOpen = latin1(bytes.subarray(at, at + 2)) === '</';
        if (isOpen && key === 'unit') edit = unitElement(units?.metres ?? null, at);
        else if (isOpen && units?.upAxis)
          edit = { span: [at, at], bytes: utf8(`<up_axis>${units.upAxis}_UP</up_axis>`) };
      }
      path.pop();
    },
  });
  return edit;
}

/** 'inch', '0.05 m'. */
const oneUnit = (metres: number): string => {
  const unit = unitOfMetres(metres);
  return unit ? unitName(unit, 1) : sceneUnitText(metres);
};

const unitElement = (metres: number | null, at: number): Edit | null =>
  metres === null
    ? null
    : {
        span: [at, at],
        bytes: utf8(`<unit meter="${metres}" name="${oneUnit(metres)}"/>`),
      };

function rootAttribute(bytes: Uint8Array, key: string): string | null {
  const m = openMarkup(bytes);
  let found: string | null = null;
  let isFirst = true;
  eachMarkup(m, {
    open(_, attributes) {
      if (!isFirst) return;
      isFirst = false;
      const a = attributes.find((x) => x.name === key);
      found = a ? decodeMarkup(m, a.from, a.to).text : null;
    },
    close() {
      isFirst = false;
    },
  });
  return found;
}
