import { useEffect } from 'react';
import { Outlet, useNavigate } from 'react-router';
import { useAppDispatch, useAppSelector } from '../state/store';
import { follow } from '../state/live';
import { keysToggled, nightToggled } from '../state/ui';
import { DropAnywhere } from './DropAnywhere';
import { chooseFiles, useTakeFiles } from './files';
import { IntakeLog } from './IntakeLog';
import { useKeys } from './keys';
import { KeysDialog } from './KeysDialog';
import { Notices } from './Notices';

const NIGHT_KEY = 'pontrel.night';

/** What is on every page: dropping, notices, keys, day and night. */
export function App() {
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const take = useTakeFiles();
  const night = useAppSelector((s) => s.ui.night);
  useEffect(() => follow(dispatch), [dispatch]);
  useEffect(() => {
    if (localStorage.getItem(NIGHT_KEY) === 'yes') dispatch(nightToggled(true));
  }, [dispatch]);
  useEffect(() => {
    document.documentElement.classList.toggle('dark', night);
    document.documentElement.style.colorScheme = night ? 'dark' : 'light';
    if (night) localStorage.setItem(NIGHT_KEY, 'yes');
    else localStorage.removeItem(NIGHT_KEY);
  }, [night]);
  useKeys({ '?': () => dispatch(keysToggled(true)), h: () => void navigate('/'), n: () => chooseFiles((files) => void take(files)) });
  return (
    <DropAnywhere>
      <Outlet />
      <Notices />
      <KeysDialog />
      <IntakeLog />
    </DropAnywhere>
  );
}
