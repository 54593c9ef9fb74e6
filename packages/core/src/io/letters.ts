/** The first bytes of a file as letters, one a byte, without a byte order mark. */
export function lettersOf(head: Uint8Array): string {
  return new TextDecoder('latin1').decode(head).replace(/^\u00ef\u00bb\u00bf/, '');
}
