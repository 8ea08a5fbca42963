export * from './gdsii';
export * from './plan';
export * from './writers';
export { LAYERS, writeBoardDxf, writeBoardSvg, writeDrill, writeGerber } from './text';
