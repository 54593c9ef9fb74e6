import { convert } from '../../packages/cli/src/convert';
import { messageOf, Problem } from '@pontrel/core/model/problem';
import { registerNodeCodePages } from '@pontrel/host-node/code-pages';
import { registerNodeImageEngine } from '@pontrel/host-node/image-engine';
import type { FuzzAnswer, FuzzQuestion } from './fuzz-process';

// Converts the files that it is asked to, one after the other, as the command line does.
registerNodeCodePages();
registerNodeImageEngine();
process.on('message', ({ input, output }: FuzzQuestion) => {
  convert([input, output], { from: 'EPSG:4326', to: 'EPSG:4326' })
    .then(
      ({ json }): FuzzAnswer => ({ json: json as FuzzAnswer['json'] }),
      (error: unknown): FuzzAnswer => ({
        problem: error instanceof Problem ? error.code : `${error instanceof Error ? error.name : ''}`,
        fault:
          error instanceof Problem || (error instanceof Error && error.constructor.name === 'Usage')
            ? null
            : String(error instanceof Error ? error.stack : messageOf(error)),
        message: messageOf(error),
      }),
    )
    .then((answer) => process.send!({ ...answer, rss_MB: process.memoryUsage.rss() / 1024 ** 2 }));
});
