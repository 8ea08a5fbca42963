export { heightOf, type JunctionKind } from './contract';
export { knowsBoard, provideTables, storedIn, type Stored, type TableData } from './table';
export { responseOf, type Response } from './response';
export { square, type Square } from './stored';
export { curved, curvedLine, reachOf } from './curve';
