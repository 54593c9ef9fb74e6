/** A choice that a format offers for a deliverable. The first choice is taken when nothing is said. */
export type FormatOption = {
  id: string;
  label: string;
  /** Whether it has a meaning beside the others; always when absent. */
  when?: (values: OptionValues) => boolean;
} & (
  | { kind: 'choice'; choices: readonly { value: string; label: string }[] }
  | { kind: 'length'; initial_m: number; /** Whether it may be 0: not at all. */ orNone?: true }
  | { kind: 'number'; initial: number; least: number; most: number }
  | {
      kind: 'text';
      hint: string;
      /** What its text is: a template that names a field, a text that may, the name of a field, a colour, or any words. */
      asks: 'template' | 'text' | 'field' | 'color' | 'words';
    }
);

/** What is chosen of the options of a format, by their ids. */
export type OptionValues = Readonly<Record<string, string | number>>;
