import type { ReactNode } from 'react';
import { Box, Flex, Text } from '@chakra-ui/react';
import { Download } from 'lucide-react';
import { useDropzone } from 'react-dropzone';
import { useParams } from 'react-router';
import { filesOf, useTakeFiles } from './files';

/** Files can be dropped on any part of the window; what is on it may take them first. */
export function DropAnywhere({ children }: { children: ReactNode }) {
  const take = useTakeFiles();
  const { id } = useParams();
  const { getRootProps, isDragActive } = useDropzone({
    noClick: true,
    noKeyboard: true,
    getFilesFromEvent: filesOf,
    onDrop: (files) => void take(files),
  });
  return (
    <Box {...getRootProps()} h="100%">
      {children}
      {isDragActive && (
        <Box position="fixed" inset="0" zIndex="overlay" bg="paper/80" p="20px" pointerEvents="none">
          <Flex
            h="100%"
            align="center"
            justify="center"
            direction="column"
            gap="10px"
            borderWidth="2px"
            borderStyle="dashed"
            borderColor="oxide"
            borderRadius="sheet"
            bg="surface/70"
          >
            <Download size={28} strokeWidth={1.4} />
            <Text textStyle="title">{id ? 'Drop to add to this crossing' : 'Drop to start a crossing'}</Text>
          </Flex>
        </Box>
      )}
    </Box>
  );
}
