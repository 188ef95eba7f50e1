// As `preload`, and the recorder finds the program: its inspector is open.
import { openInspector } from './inspector';
import { startUnnoticed } from './start';

startUnnoticed(openInspector);
