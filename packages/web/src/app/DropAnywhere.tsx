import { useEffect, useState } from 'react';
import { Box, Flex, Text } from '@chakra-ui/react';
import { Download } from 'lucide-react';
import { useParams } from 'react-router';
import { droppedFiles, useTakeFiles } from './files';

/** Files can be dropped on any part of the window. */
export function DropAnywhere() {
  const take = useTakeFiles();
  const { id } = useParams();
  const [over, setOver] = useState(false);
  useEffect(() => {
    let depth = 0;
    const hasFiles = (e: DragEvent): boolean => e.dataTransfer?.types.includes('Files') ?? false;
    const enter = (e: DragEvent): void => {
      if (!hasFiles(e)) return;
      depth++;
      setOver(true);
    };
    const leave = (e: DragEvent): void => {
      if (hasFiles(e) && --depth <= 0) setOver(false);
    };
    const move = (e: DragEvent): void => {
      if (hasFiles(e)) e.preventDefault();
    };
    const drop = (e: DragEvent): void => {
      if (!hasFiles(e)) return;
      e.preventDefault();
      depth = 0;
      setOver(false);
      if (e.dataTransfer) void droppedFiles(e.dataTransfer.items).then(take);
    };
    window.addEventListener('dragenter', enter);
    window.addEventListener('dragleave', leave);
    window.addEventListener('dragover', move);
    window.addEventListener('drop', drop);
    return () => {
      window.removeEventListener('dragenter', enter);
      window.removeEventListener('dragleave', leave);
      window.removeEventListener('dragover', move);
      window.removeEventListener('drop', drop);
    };
  }, [take]);
  if (!over) return null;
  return (
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
  );
}
