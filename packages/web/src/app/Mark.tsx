import { Box } from '@chakra-ui/react';

/** The mark: three piers under a deck. */
export function Mark({ size = 34 }: { size?: number }) {
  return (
    <Box asChild color="ink" flex="none">
      <svg width={size} height={size} viewBox="0 0 34 34" aria-hidden="true">
        <path d="M1 11h32M1 14h32" stroke="currentColor" strokeWidth="1.5" />
        <Box asChild color="oxide">
          <g>
            <path
              d="M5 28C7 19 11 17.2 13 17.2S15.6 19 15.6 28M18.4 28C18.4 19 19 17.2 21 17.2S27 19 29 28"
              fill="none"
              stroke="currentColor"
              strokeWidth="2"
            />
            <path d="M15.6 14h2.8v14.5h-2.8zM2.2 14h2.8v14.5H2.2zM29 14h2.8v14.5H29z" fill="currentColor" />
          </g>
        </Box>
      </svg>
    </Box>
  );
}
