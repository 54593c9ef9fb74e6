import { Box, Flex, Text } from '@chakra-ui/react';
import { plural } from '../components/numbers';
import { PaperDialog } from '../components/PaperDialog';
import { Mono, Muted, ToneIcon } from '../components/parts';
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
        <Flex key={k} gap="10px" py="6px" borderTopWidth="1px" borderColor="hairline" align="flex-start">
          <Box pt="1px">
            <ToneIcon tone={l.outcome === 'taken' ? 'good' : 'wrong'} />
          </Box>
          <Box minW="0">
            <Mono overflowWrap="anywhere">{l.name}</Mono>
            {l.message !== null && (
              <Muted display="block" textStyle="small">
                {l.message}
              </Muted>
            )}
          </Box>
        </Flex>
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
