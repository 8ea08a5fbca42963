export { junctionKinds, forms, type JunctionKind } from './contract';
export { provideTables, storedIn, type Stored, type TableData } from './table';
export { responseOf, type Response } from './response';
export { square, type Square } from './stored';
