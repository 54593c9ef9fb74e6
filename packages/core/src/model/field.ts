/**
 * What the values of a field are. Whole numbers are exact to 64 bits. Days, times and moments travel as ISO 8601 text: `2026-03-09`,
 * `14:30:00`, `2026-03-09T14:30:00Z`, the last with a zone or without.
 */
export type FieldType = 'text' | 'integer' | 'decimal' | 'boolean' | 'date' | 'time' | 'datetime' | 'bytes';

/** A field as its source declares it, whatever its values are. */
export interface FieldDeclaration {
  type: FieldType;
  /** Characters of a text, or of a number with its sign and point; absent where the source sets no limit. */
  width?: number;
  /** Digits after the point. */
  decimals?: number;
}

/** The declared fields of a layer, by name. */
export type Declarations = ReadonlyMap<string, FieldDeclaration>;

/** A field: its name, and what its source declares of it. */
export interface Field extends FieldDeclaration {
  name: string;
}
