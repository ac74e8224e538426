// The commands of all features, in the order in which they are listed.
import { checkCommands } from '../checks/checkCommands';
import { register } from '../commands';
import { curveCommands } from '../curves/curveCommands';
import { keyCommands } from '../curves/keyCommands';
import { objectCommands } from '../objects/objectCommands';
import { placingCommands } from '../objects/placingCommands';
import { selectCommands } from '../objects/selectCommands';
import { poseCommands } from '../poses/poseCommands';
import { shotCommands } from '../shots/shotCommands';
import { clipboardCommands } from '../timeline/clipboardCommands';
import { layerCommands } from '../timeline/layers/layerCommands';
import { endCommands } from '../timeline/graph/ends.svelte';
import { timeCommands } from '../timeline/timeCommands';
import { viewCommands } from '../viewport/viewCommands';
import { editCommands } from './editCommands';
import { panelCommands } from './panelCommands';

for (const own of [
  timeCommands,
  editCommands,
  clipboardCommands,
  objectCommands,
  selectCommands,
  placingCommands,
  keyCommands,
  poseCommands,
  curveCommands,
  endCommands,
  layerCommands,
  viewCommands,
  panelCommands,
  shotCommands,
  checkCommands,
])
  register(own);
