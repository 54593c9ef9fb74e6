import { useMemo } from 'react';
import type { FaultView, SourceState } from '@pontrel/contract/crossing';
import type { FaultCode } from '@pontrel/core/content/derived/fault';
import { chosenFaults, chosenText, type ChosenFault } from '@pontrel/core/content/parcels/chosen-faults';
import { MEND } from '@pontrel/core/content/parcels/mend';
import { settingsOf } from '@pontrel/core/crossing/derive-records';
import { isLive, useJobs } from '../app/JobRow';
import { useCrossing } from '../crossing/use-crossing';
import { messageOfError, useDeriveMutation } from '../state/api';
import { useAppDispatch } from '../state/store';
import { jobsKnown, noticeGiven } from '../state/ui';

/** A fault as it is chosen to be mended. */
export const chosenOf = ({ kind, place, about }: FaultView): ChosenFault => ({ kind: kind as FaultCode, at: place, about });

/** The faults of a report that are mended one by one, and how one is added to them, or taken from them. */
export interface Mending {
  mended: readonly ChosenFault[];
  /** Absent while the one before is being mended. */
  toggle: ((fault: ChosenFault) => void) | null;
}

const sameLayers = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);

/**
 * Mends faults of a report of areas one by one: the areas with what was chosen mended are a source of their own, which is worked out
 * again with each. @param report null, or a source whose faults are not mended so
 */
export function useMending(report: SourceState | null): Mending | null {
  const { id, sources } = useCrossing();
  const [derive] = useDeriveMutation();
  const dispatch = useAppDispatch();
  const busy = useJobs(id, 'read').some(isLive);
  const derived = report?.derived?.operation === 'topology' ? report.derived : null;
  const made = derived
    ? sources.find((s) => s.derived?.operation === MEND.id && s.derived.settings.only && sameLayers(s.derived.roles, derived.roles))
    : undefined;
  const only = String(made?.derived?.settings.only ?? '');
  const mended = useMemo(() => chosenFaults(only) ?? [], [only]);
  if (!derived) return null;
  const toggle = (fault: ChosenFault): void => {
    const others = mended.filter((f) => chosenText([f]) !== chosenText([fault]));
    const next = others.length < mended.length ? others : [...mended, fault];
    const settings = settingsOf(MEND, {
      ...made?.derived?.settings,
      names: String(derived.settings.names ?? ''),
      only: chosenText(next) || NOTHING,
    });
    const name = made?.derived?.name ?? `${derived.name} mended`.slice(0, 60);
    void derive({ id, operation: MEND.id, name, roles: derived.roles, settings, ...(made ? { again: made.id } : {}) })
      .unwrap()
      .then((job) => dispatch(jobsKnown([job])))
      .catch((error: unknown) => dispatch(noticeGiven({ tone: 'wrong', message: messageOfError(error) })));
  };
  return { mended, toggle: busy ? null : toggle };
}

/** A line that chooses nothing, and is not the setting for all. */
const NOTHING = '-';
