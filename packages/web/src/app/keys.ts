import { useEffect, useRef } from 'react';

/** What the keys do, for the list that `?` shows; the handlers stand where the thing is done. */
export const KEYS: readonly { keys: string[]; does: string; where: string }[] = [
  { keys: ['1', '2', '3', '4', '5'], does: 'Go to Gather, Place, Shape, Deliver, Prove', where: 'Crossing' },
  { keys: ['S'], does: 'Span: which records reach which deliverable', where: 'Crossing' },
  { keys: ['Ctrl', 'Z'], does: 'Undo the last change of a rule', where: 'Crossing' },
  { keys: ['Ctrl', 'Shift', 'Z'], does: 'Do it again', where: 'Crossing' },
  { keys: ['H'], does: 'Home: the list of crossings', where: 'Everywhere' },
  { keys: ['N'], does: 'New crossing: choose files', where: 'Everywhere' },
  { keys: ['?'], does: 'This list', where: 'Everywhere' },
  { keys: ['Esc'], does: 'Close a list, end a measurement, let go of a record', where: 'Everywhere' },
  { keys: ['Space'], does: 'Take or leave the layer in focus', where: 'Gather' },
  { keys: ['Ctrl', 'Enter'], does: 'Run all deliverables that are ticked', where: 'Deliver' },
  { keys: ['L'], does: 'Find a layer or a field; Enter chooses all that are found', where: 'Shape' },
  { keys: ['[', ']'], does: 'The fault before, the next one; as well , and .', where: 'Shape, what was worked out' },
  { keys: ['X'], does: 'Let the fault be, or open it again', where: 'Shape, what was worked out' },
  { keys: ['E'], does: 'Mend the fault by itself, or take that back', where: 'Shape, a report of areas' },
  { keys: ['Space'], does: 'Choose the layer in focus beside the others, or let go of it; with Shift all up to it', where: 'Shape' },
  { keys: ['Space'], does: 'Choose the record in focus, or leave it; with Shift all up to it', where: 'Records' },
  { keys: ['Enter'], does: 'Find the record in focus on the map', where: 'Records' },
  { keys: ['Arrows'], does: 'Move between layers; move the map when it is in focus', where: 'Gather, map' },
  { keys: ['+', '−'], does: 'Zoom the map', where: 'Map' },
  { keys: ['F'], does: 'Fit everything on the map', where: 'Map' },
  { keys: ['M'], does: 'Measure distances and areas', where: 'Map' },
  { keys: ['K'], does: 'Legend: layers switched off or dimmed on the map', where: 'Map' },
  { keys: ['I'], does: 'List the images: order, opacity, shown or hidden', where: 'Map' },
  {
    keys: ['Enter'],
    does: 'Take the point in the middle of the map: its record, or the next point of a measurement',
    where: 'Map in focus',
  },
];

/** True while somebody is typing, so that letters are letters. */
export function isTyping(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLElement &&
    (target.isContentEditable ||
      target.tagName === 'SELECT' ||
      target.tagName === 'TEXTAREA' ||
      (target instanceof HTMLInputElement && !['checkbox', 'radio', 'button'].includes(target.type)))
  );
}

/** Calls the handler of a key anywhere on the page; keys are as KeyboardEvent.key, lower case. */
export function useKeys(handlers: Record<string, ((event: KeyboardEvent) => void) | undefined>): void {
  const latest = useRef(handlers);
  useEffect(() => {
    latest.current = handlers;
  });
  useEffect(() => {
    const listen = (event: KeyboardEvent): void => {
      if (event.defaultPrevented || event.altKey || isTyping(event.target)) return;
      const name = `${event.ctrlKey || event.metaKey ? 'ctrl+' : ''}${event.shiftKey && event.key.length === 1 && /[a-z]/i.test(event.key) ? 'shift+' : ''}${event.key.toLowerCase()}`;
      const handler = latest.current[name];
      if (!handler) return;
      event.preventDefault();
      handler(event);
    };
    window.addEventListener('keydown', listen);
    return () => window.removeEventListener('keydown', listen);
  }, []);
}
