import { registerNodeCodePages } from '@pontrel/host-node/code-pages';

// checks read files as the hosts do
registerNodeCodePages();
