import { seatingAccuracy } from './seating-accuracy';
process.stdout.write((await seatingAccuracy(process.cwd())) + '\n');
