export {
  areaOf,
  boxOf,
  copperAround,
  grouped,
  lengthAround,
  nearestBetween,
  nearestOn,
  sidesOf,
  within,
  type Point,
  type Ring,
  type Side,
  type Sides,
} from './ring';
export * from './shapes';
export * from './union';
