import { checkAll } from './check';
import { RECORDS } from './records';

checkAll('a hostile file of records', RECORDS);
