export * from './gdsii';
export * from './plan';
export { LAYERS, writeBoardDxf, writeBoardSvg, writeDrill, writeGerber } from './text';
