// Required first by every Node.js process below `tromix run`. Whatever goes wrong in here, the program must not notice.
import { startUnnoticed } from './start';

startUnnoticed();
