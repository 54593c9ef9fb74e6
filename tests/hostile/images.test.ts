import { checkAll } from './check';
import { IMAGES } from './images';

checkAll('a hostile picture', IMAGES);
