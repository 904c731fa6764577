import { flowAccuracy } from './flow-accuracy';
process.stdout.write((await flowAccuracy(process.cwd())) + '\n');
