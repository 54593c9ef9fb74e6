import iconv from 'iconv-lite';
import { registerCodePages } from '@pontrel/core/io/text-decoding';

/** Pages under other names in the tables of iconv-lite. */
const NAMES: Record<string, string> = { 'windows-874': 'windows874', ibm866: 'cp866' };

/** Gives the core the code pages of iconv-lite; to be called before files are read. */
export function registerNodeCodePages(): void {
  registerCodePages({
    decoder(id) {
      const name = NAMES[id] ?? id;
      if (!iconv.encodingExists(name)) return null;
      const decoder = iconv.getDecoder(name, { stripBOM: false });
      return {
        decode(bytes, { stream = false } = {}) {
          const text = bytes ? decoder.write(Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength)) : '';
          return stream ? text : text + (decoder.end() ?? '');
        },
      };
    },
    encode(text, id) {
      const name = NAMES[id] ?? id;
      const bytes = iconv.encode(text, name, { addBOM: false });
      // a letter that the page does not have would be a question mark
      return iconv.decode(bytes, name, { stripBOM: false }) === text ? bytes : null;
    },
  });
}
