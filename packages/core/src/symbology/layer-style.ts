/** What the records of a layer are labelled with. */
export interface Label {
  /** The field whose values are written. */
  field: string;
  /** Of the lettering, millimetres on a sheet; null for whatever is usual. */
  height_mm: number | null;
  /** "#rrggbb"; null for ink. */
  color: string | null;
}

/** Denominators of the scales at which a layer is shown: from 1 to `min`, the largest, to 1 to `max`, the smallest, which is not among them; null for no end. */
export interface Scales {
  min: number | null;
  max: number | null;
}

/** What a style says of a layer as a whole, apart from what its records are drawn with. */
export interface LayerStyle {
  label: Label | null;
  scales: Scales | null;
}

/** The style of a layer of which nothing is said. */
export const NO_STYLE: LayerStyle = { label: null, scales: null };

/** Whether a style says anything. */
export const saysStyle = ({ label, scales }: LayerStyle): boolean => label !== null || scales !== null;

/** What a rule says of the style of a layer: null takes away what its source says. */
export interface StyleRule {
  label?: { field: string; height_mm?: number | undefined } | null | undefined;
  scales?: { min?: number | undefined; max?: number | undefined } | null | undefined;
}

/** The style of a layer: what the rule says, otherwise what its source says. */
export function styleBy(rule: StyleRule, source: LayerStyle | undefined): LayerStyle {
  const { label, scales } = rule;
  return {
    label: label === undefined ? (source?.label ?? null) : label && { field: label.field, height_mm: label.height_mm ?? null, color: null },
    scales: scales === undefined ? (source?.scales ?? null) : scales && { min: scales.min ?? null, max: scales.max ?? null },
  };
}
