import { useEffect } from 'react';
import { Box, Button, Flex } from '@chakra-ui/react';
import { X } from 'lucide-react';
import { ICON, Note } from '../components/parts';
import { useAppDispatch, useAppSelector } from '../state/store';
import { type Notice, noticeGone } from '../state/ui';

/** Short messages at the foot of the page, between the panels with their buttons. Good news goes by itself; the rest waits to be read. */
export function Notices() {
  const notices = useAppSelector((s) => s.ui.notices);
  const connected = useAppSelector((s) => s.ui.connected);
  return (
    <Flex
      position="fixed"
      left="50%"
      transform="translateX(-50%)"
      bottom="16px"
      zIndex="toast"
      direction="column"
      gap="8px"
      w="420px"
      maxW="calc(100vw - 32px)"
      aria-live="polite"
      role="status"
    >
      {!connected && (
        <Note tone="wrong">
          Pontrel’s server does not answer. Check that its window is still open; this page goes on as soon as it is back.
        </Note>
      )}
      {notices.map((n) => (
        <One key={n.id} notice={n} />
      ))}
    </Flex>
  );
}

function One({ notice }: { notice: Notice }) {
  const dispatch = useAppDispatch();
  useEffect(() => {
    if (notice.tone === 'wrong') return;
    const timer = setTimeout(() => dispatch(noticeGone(notice.id)), 4000);
    return () => clearTimeout(timer);
  }, [notice, dispatch]);
  return (
    <Note tone={notice.tone}>
      <Flex gap="8px" align="flex-start">
        <Box flex="1" overflowWrap="anywhere">
          {notice.message}
        </Box>
        <Button variant="ghost" size="sm" h="18px" minW="18px" px="0" aria-label="Dismiss" onClick={() => dispatch(noticeGone(notice.id))}>
          <X {...ICON} size={14} />
        </Button>
      </Flex>
    </Note>
  );
}
