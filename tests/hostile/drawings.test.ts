import { checkAll } from './check';
import { DRAWINGS } from './drawings';

checkAll('a hostile drawing', DRAWINGS);
