import { Box, Flex, Kbd, Text } from '@chakra-ui/react';
import { PaperDialog } from '../components/PaperDialog';
import { useAppDispatch, useAppSelector } from '../state/store';
import { keysToggled } from '../state/ui';
import { useLocation } from 'react-router';
import { KEYS } from './keys';
import { STAGE_HELP } from './stage-help';
import { STAGE_NAMES, STAGES } from './stages';

export function KeysDialog() {
  const open = useAppSelector((s) => s.ui.keysShown);
  const dispatch = useAppDispatch();
  const page = useLocation().pathname.split('/')[3];
  const stage = STAGES.find((s) => s === page);
  const places = [...new Set(KEYS.map((k) => k.where))];
  return (
    <PaperDialog
      open={open}
      onClose={() => dispatch(keysToggled(false))}
      scroll
      title={stage ? `${STAGE_NAMES[stage]}, and the keys` : 'Keys'}
      width="560px"
    >
      {stage &&
        STAGE_HELP[stage].map((said) => (
          <Text key={said} mt="6px">
            {said}
          </Text>
        ))}
      {places.map((where) => (
        <Box key={where} mt="10px">
          <Text textStyle="small" color="muted" mb="2px">
            {where}
          </Text>
          {KEYS.filter((k) => k.where === where).map((k) => (
            <Flex key={k.does} justify="space-between" gap="16px" py="5px" borderTopWidth="1px" borderColor="hairline">
              <Text>{k.does}</Text>
              <Flex gap="4px" flex="none">
                {k.keys.map((key) => (
                  <Kbd
                    key={key}
                    bg="paper"
                    borderWidth="1px"
                    borderColor="line"
                    borderRadius="chip"
                    fontFamily="mono"
                    fontSize="11px"
                    boxShadow="none"
                    color="ink"
                    px="6px"
                  >
                    {key}
                  </Kbd>
                ))}
              </Flex>
            </Flex>
          ))}
        </Box>
      ))}
    </PaperDialog>
  );
}
