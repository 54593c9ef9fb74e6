/**
 * Brings the page to the first field in which something stands that cannot be taken, and gives it the focus.
 * @returns what the field is called; null where there is none
 */
export function goToFieldInError(): string | null {
  const field = document.querySelector<HTMLElement>('[aria-invalid="true"]');
  if (!field) return null;
  field.scrollIntoView({ block: 'center' });
  field.focus();
  return field.getAttribute('aria-label') ?? 'A field';
}
