// X3D classic (.x3dv) and VRML97 (.wrl): nodes in braces, fields by name, lists in brackets, `#` comments to the end of the line.
//
//     ImageTexture { url [ "hull.png", "https://example.org/hull.png" ] }
//                           ^ span ^
//
// Source: VRML97 (ISO/IEC 14772-1) §5 and annex A grammar; X3D classic encoding (ISO/IEC 19776-2). VRML 1.0 (Texture2 filename) too.

import { decodeText, toLatin1, utf8, latin1 } from '../text/bytes';
import type { Format, Reading, Reference, ReferenceKind } from './format';
import { numbering } from './markup';
import { addChoices, isInline, kindOfField } from './x3dNodes';

const hash = 0x23,
  quote = 0x22,
  backslash = 0x5c,
  openBrace = 0x7b,
  closeBrace = 0x7d,
  openBracket = 0x5b,
  closeBracket = 0x5d;
const isWord = (c: number) =>
  c > 0x20 &&
  c !== hash &&
  c !== quote &&
  c !== openBrace &&
  c !== closeBrace &&
  c !== openBracket &&
  c !== closeBracket &&
  c !== 0x2c &&
  c !== 0x27;

/** Fields of VRML 1.0 that name a file. */
function kindInVrml1(node: string, field: string): ReferenceKind | null {
  if (node === 'Texture2' && field === 'filename') return 'texture';
  return node === 'WWWInline' && field === 'name' ? 'scene' : null;
}

export const x3dv: Format = {
  id: 'x3dv',
  name: 'X3D classic and VRML',
  extensions: ['.x3dv', '.wrl', '.wrz', '.x3dvz'],
  mayBeGzip: true,
  syntax: 'uri',
  sniff(head) {
    return /^(ï»¿)?#(X3D|VRML) V\d/.test(latin1(head.subarray(0, 64)));
  },
  read(b) {
    const reading: Reading = { references: [], problems: [] };
    const place = numbering();
    const problem = (code: string, message: string, from: number) =>
      reading.problems.push({ code, message, span: [from, b.length] });
    const nodes: { name: string; brackets: number }[] = [];
    let word = ''; // the last one
    let label = ''; // what DEF named
    let field: { kind: ReferenceKind; name: string } | null = null;
    let list: Reference[] | null = null;
    let proto = 0; // EXTERNPROTO: 1 its name follows, 2 its interface, 3 its url
    let brackets = 0;
    let lists = 0;
    const finish = () => {
      if (list) addChoices(reading, list, lists++);
      list = null;
      field = null;
      if (proto === 3) proto = 0;
    };
    for (let i = 0; i < b.length;) {
      const c = b[i]!;
      if (c === hash) {
        while (i < b.length && b[i] !== 0x0a && b[i] !== 0x0d) i++;
      } else if (c === quote) {
        let end = i + 1;
        while (end < b.length && b[end] !== quote) end += b[end] === backslash ? 2 : 1;
        if (end >= b.length) {
          problem('truncated', 'The file ends inside a string.', i);
          break;
        }
        if (field) {
          const { text, encoding } = decodeText(b.subarray(i + 1, end));
          const written = text.replace(/\\(["\\])/g, '$1');
          const node = proto === 3 ? 'EXTERNPROTO' : (nodes.at(-1)?.name ?? '');
          if (!isInline(written))
            (list ??= []).push({
              at: place([node, label, field.name].filter(Boolean).join(' ')),
              kind: field.kind,
              written,
              span: [i + 1, end],
              encoding,
            });
          if (brackets === 0) finish();
        }
        i = end + 1;
      } else if (c === openBrace) {
        finish();
        nodes.push({ name: word, brackets });
        brackets = 0;
        i++;
      } else if (c === closeBrace) {
        finish();
        const node = nodes.pop();
        if (node === undefined) {
          problem('bad-structure', 'A brace closes what was not opened.', i);
          break;
        }
        ({ brackets } = node);
        label = '';
        i++;
      } else if (c === openBracket) {
        brackets++;
        i++;
      } else if (c === closeBracket) {
        brackets = Math.max(0, brackets - 1);
        if (proto === 2 && brackets === 0) {
          proto = 3;
          field = { kind: 'scene', name: 'url' };
        } else if (brackets === 0 && field) finish();
        i++;
      } else if (isWord(c)) {
        const from = i;
        while (i < b.length && isWord(b[i]!)) i++;
        // Numbers make up most of such a file; they are no words.
        if ((c >= 0x30 && c <= 0x39) || c === 0x2d || c === 0x2b || c === 0x2e) continue;
        const previous = word;
        word = String.fromCharCode(...b.subarray(from, Math.min(i, from + 200)));
        if (brackets === 0 && proto !== 1) finish();
        if (previous === 'DEF') label = word;
        if (word === 'EXTERNPROTO') proto = 1;
        else if (proto === 1) proto = 2;
        else if (brackets === 0 && nodes.length > 0) {
          const kind = kindOfField(nodes.at(-1)!.name, word) ?? kindInVrml1(nodes.at(-1)!.name, word);
          if (kind) field = { kind, name: word };
        }
      } else i++;
    }
    finish();
    if (nodes.length > 0 && reading.problems.length === 0)
      problem(
        'truncated',
        `The file ends before ${nodes.at(-1)!.name} { is closed.`,
        Math.max(0, b.length - 1),
      );
    return reading;
  },
  encode(value, at) {
    if (/[\r\n\0]/.test(value)) return null;
    const text = value.replace(/["\\]/g, '\\$&');
    return at.encoding === 'latin-1' ? toLatin1(text) : utf8(text);
  },
};
