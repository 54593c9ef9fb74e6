import { Button } from '@chakra-ui/react';
import { Moon, Sun } from 'lucide-react';
import { ICON } from '../components/parts';
import { useAppDispatch, useAppSelector } from '../state/store';
import { keysToggled, nightToggled } from '../state/ui';

/** The buttons that every header ends with. */
export function Tools() {
  const dispatch = useAppDispatch();
  const night = useAppSelector((s) => s.ui.night);
  return (
    <>
      <Button px="0" aria-label={night ? 'Day colours' : 'Night colours'} onClick={() => dispatch(nightToggled(!night))}>
        {night ? <Sun {...ICON} /> : <Moon {...ICON} />}
      </Button>
      <Button px="0" aria-label="? Keys" aria-keyshortcuts="?" onClick={() => dispatch(keysToggled(true))}>
        ?
      </Button>
    </>
  );
}
