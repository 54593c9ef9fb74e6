import { checkAll } from './check';
import { TABLES } from './tables';

checkAll('a hostile table, container, archive or filter', TABLES);
