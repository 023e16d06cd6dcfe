// What a thread of server/workers.ts begins with: TypeScript is read as in the server itself, in whatever way a module is imported.
import { workerData } from 'piscina';
import { register } from 'tsx/esm/api';

register();
export default (await import(workerData.file)).default;
