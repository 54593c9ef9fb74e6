export type FieldType = 'text' | 'integer' | 'decimal' | 'boolean' | 'date';

export interface Field {
  name: string;
  type: FieldType;
}
