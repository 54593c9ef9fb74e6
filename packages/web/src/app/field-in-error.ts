/** What a field that cannot be taken is called, once the page has been brought to it. */
export interface FieldInError {
  label: string;
}

/**
 * Brings the page to the first field in which something stands that cannot be taken, and gives it the focus.
 * @returns null where there is none
 */
export function goToFieldInError(): FieldInError | null {
  const field = document.querySelector<HTMLElement>('[aria-invalid="true"]');
  if (!field) return null;
  field.scrollIntoView({ block: 'center' });
  field.focus();
  return { label: field.getAttribute('aria-label') ?? 'A field' };
}
