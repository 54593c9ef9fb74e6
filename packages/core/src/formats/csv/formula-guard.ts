/** What a spreadsheet takes for the beginning of a formula. Source: OWASP, "CSV Injection". */
const FORMULA = /^[=+\-@\t\r]/;

/** A number with a sign is no formula. */
const NUMBER = /^[+-]?(\d+([.,]\d*)?|[.,]\d+)([eE][+-]?\d+)?$/;

/** An apostrophe before a formula, or before what has apostrophes before one already. */
const GUARDED = /^'+[=+\-@\t\r]/;

/** Whether a text would begin a formula where a spreadsheet opens the table. */
export const isFormula = (text: string): boolean => (FORMULA.test(text) && !NUMBER.test(text)) || GUARDED.test(text);

/** A text with an apostrophe before it where it would begin a formula; {@link unguarded} takes it off again. */
export const guarded = (text: string): string => (isFormula(text) ? `'${text}` : text);

/** A text without the apostrophe that guards it. */
export const unguarded = (text: string): string => (GUARDED.test(text) ? text.slice(1) : text);
