import { Text } from '@chakra-ui/react';
import { plural } from '../components/numbers';
import { PaperDialog } from '../components/PaperDialog';
import { ToldRow } from '../components/ToldRow';
import { useAppDispatch, useAppSelector } from '../state/store';
import { intakeLogged } from '../state/ui';

/** What became of each file that was handed in; it comes up by itself when some were not taken. */
export function IntakeLog() {
  const log = useAppSelector((s) => s.ui.intake);
  const dispatch = useAppDispatch();
  const refused = log.filter((l) => l.outcome === 'refused'),
    taken = log.filter((l) => l.outcome === 'taken'),
    passed = log.filter((l) => l.outcome === 'passed');
  return (
    <PaperDialog
      open={log.length > 0}
      onClose={() => dispatch(intakeLogged([]))}
      title={
        <>
          {plural(taken.length, 'file')} taken in, {refused.length} not
        </>
      }
      width="640px"
      scroll
    >
      {[...refused, ...taken].map((l, k) => (
        <ToldRow key={k} tone={l.outcome === 'taken' ? 'good' : 'wrong'} name={l.name}>
          {l.message}
        </ToldRow>
      ))}
      {passed.length > 0 && (
        <Text mt="8px" textStyle="small" color="muted">
          Passed over, because they are of no kind that is read:{' '}
          {passed
            .slice(0, 12)
            .map((p) => p.name)
            .join(', ')}
          {passed.length > 12 ? ` and ${passed.length - 12} more` : ''}.
        </Text>
      )}
    </PaperDialog>
  );
}
