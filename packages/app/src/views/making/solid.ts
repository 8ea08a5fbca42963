import type { BoardPlan, Layers } from '@ditch/core/making';
import type { Flow } from '@ditch/core/planar';
import { boxOf, grouped, type Ring } from '@ditch/core/polygons';
import * as THREE from 'three';
import { mostOf, shadeOf, sizes } from '../design/flowing';

/** Metres are millimetres here: numbers near one suit the graphics. */
const MM = 1e3;
/** Mounted parts are as high as this share of their shorter side, or at least, mm. */
const PART = 0.6;
const LEAST = 0.2;
/** Milliseconds after which later wishes are let in while a board is built. */
const TURN = 12;

/** Colours of the theme, as the page has them at the moment. */
export interface Colours {
  readonly laminate: string;
  readonly copper: string;
  readonly copperHand: string;
  readonly raised: string;
  readonly quiet: string;
  readonly page: string;
}

/** Where one looks from: angles in rad around the middle of the board, what is in the middle of the picture (mm), pixels per mm. */
export interface Stand {
  readonly turn: number;
  readonly rise: number;
  readonly at: readonly [number, number, number];
  readonly scale: number;
}

const shapeOf = (outer: Ring, holes: readonly Ring[]): THREE.Shape => {
  const points = (ring: Ring) => ring.map(([x, y]) => new THREE.Vector2(x * MM, y * MM));
  const shape = new THREE.Shape(points(outer));
  shape.holes = holes.map((h) => new THREE.Path(points(h)));
  return shape;
};

/** A board as solid shapes: dielectric from -height to 0 (of a stripline around 0), copper on it. */
export class SolidBoard {
  readonly scene = new THREE.Scene();
  private readonly camera = new THREE.OrthographicCamera();
  private readonly renderer: THREE.WebGLRenderer;
  private readonly board = new THREE.Group();
  private turn = 0;

  /** @throws Error where the browser has no WebGL */
  constructor(canvas: OffscreenCanvas) {
    this.renderer = new THREE.WebGLRenderer({ canvas, antialias: true, preserveDrawingBuffer: true });
    this.scene.add(this.board);
    this.scene.add(new THREE.HemisphereLight('#ffffff', '#b9a98c', 2.2));
    const sun = new THREE.DirectionalLight('#ffffff', 1.6);
    sun.position.set(-0.6, -0.8, 1.4);
    this.scene.add(sun);
  }

  dispose(): void {
    this.turn++;
    this.clear();
    this.renderer.dispose();
  }

  private clear(): void {
    this.board.traverse((thing) => {
      if (!(thing instanceof THREE.Mesh || thing instanceof THREE.LineSegments)) return;
      (thing.geometry as THREE.BufferGeometry).dispose();
      (thing.material as THREE.Material).dispose();
    });
    this.board.clear();
  }

  private add(geometry: THREE.BufferGeometry, colour: string, z = 0, opacity = 1): THREE.Mesh {
    const mesh = new THREE.Mesh(
      geometry,
      new THREE.MeshStandardMaterial({
        color: colour,
        roughness: 0.75,
        metalness: 0.05,
        side: THREE.DoubleSide,
        ...(opacity < 1 && { transparent: true, opacity, depthWrite: false }),
      }),
    );
    mesh.position.z = z;
    this.board.add(mesh);
    return mesh;
  }

  /**
   * Builds the board anew.
   * @param stretch times that the copper is thicker than it is
   * @returns triangles that it consists of; undefined where another build came before its end
   */
  async build(
    plan: BoardPlan,
    layers: Layers,
    colours: Colours,
    stretch: number,
    flow: Flow | undefined,
  ): Promise<number | undefined> {
    const turn = ++this.turn;
    let since = performance.now();
    /** Lets later wishes come in; whether this build is still wished for. */
    const goesOn = async (): Promise<boolean> => {
      if (performance.now() - since > TURN) {
        await new Promise((resolve) => setTimeout(resolve));
        since = performance.now();
      }
      return turn === this.turn;
    };
    this.clear();
    const height = layers.height * MM;
    const thick = Math.max(1e-4, layers.thickness * MM * stretch);
    const rim = shapeOf(plan.board, []);
    const slab = (shape: THREE.Shape, depth: number) =>
      new THREE.ExtrudeGeometry(shape, { depth, bevelEnabled: false });
    const low = layers.between ? -height / 2 : -height;
    this.add(slab(rim, -low), colours.laminate, low);
    this.add(slab(rim, thick), colours.copperHand, low - thick);
    if (layers.between) {
      this.add(slab(rim, height / 2), colours.laminate, 0, 0.35);
      this.add(slab(rim, thick), colours.copperHand, height / 2, 0.12);
    }
    for (const { outer, holes } of grouped([...plan.outlines, ...plan.letters])) {
      this.add(slab(shapeOf(outer, holes), thick), colours.copper);
      if (!(await goesOn())) return undefined;
    }
    for (const { x, y, diameter } of plan.holes) {
      if (!(await goesOn())) return undefined;
      const barrel = new THREE.CylinderGeometry(
        (diameter / 2) * MM,
        (diameter / 2) * MM,
        -low + 2 * thick + 0.02,
        24,
      );
      barrel.rotateX(Math.PI / 2);
      const mesh = this.add(barrel, colours.page);
      mesh.position.set(x * MM, y * MM, low / 2);
    }
    for (const part of plan.mounted) {
      const { x0, x1, y0, y1 } = boxOf(part.outline);
      const across = Math.min(x1 - x0, y1 - y0) * MM;
      if (part.connector) {
        // Round, along its way out of the board.
        const long = Math.max(x1 - x0, y1 - y0) * MM;
        const coax = new THREE.CylinderGeometry(across / 2, across / 2, long, 32);
        coax.rotateZ(part.angle - Math.PI / 2);
        const mesh = this.add(coax, colours.quiet);
        mesh.position.set(((x0 + x1) / 2) * MM, ((y0 + y1) / 2) * MM, thick / 2);
      } else this.add(slab(shapeOf(part.outline, []), Math.max(LEAST, PART * across)), colours.raised, thick);
    }
    if (layers.cover !== undefined && !layers.between)
      this.add(slab(rim, 0.1), colours.quiet, layers.cover * MM, 0.18);
    if (!(await goesOn())) return undefined;
    if (flow && plan.origin) this.lay(flow, plan.origin, thick + 0.01);
    let triangles = 0;
    this.board.traverse((thing) => {
      if (thing instanceof THREE.Mesh) {
        const { index, attributes } = thing.geometry as THREE.BufferGeometry;
        triangles += (index ? index.count : attributes.position.count) / 3;
      }
    });
    return triangles;
  }

  /** Lays the size of the current on the copper, each cell in its shade. */
  private lay(flow: Flow, [ox, oy]: readonly [number, number], z: number): void {
    const { corners, first } = flow;
    const all = sizes(flow, undefined);
    const most = mostOf(flow);
    const places: number[] = [];
    const shades: number[] = [];
    const shade = new THREE.Color();
    for (let c = 0; c + 1 < first.length; c++) {
      shade.set(shadeOf(all[c], most).replace(/ /g, ',').replace('rgb,', 'rgb'));
      for (let k = first[c] + 1; k + 1 < first[c + 1]; k++)
        for (const i of [first[c], k, k + 1]) {
          places.push((corners[2 * i] + ox) * MM, (corners[2 * i + 1] + oy) * MM, z);
          shades.push(shade.r, shade.g, shade.b);
        }
    }
    const geometry = new THREE.BufferGeometry();
    geometry.setAttribute('position', new THREE.Float32BufferAttribute(places, 3));
    geometry.setAttribute('color', new THREE.Float32BufferAttribute(shades, 3));
    this.board.add(
      new THREE.Mesh(geometry, new THREE.MeshBasicMaterial({ vertexColors: true, side: THREE.DoubleSide })),
    );
  }

  /** @param ratio pixels of the screen per pixel of the page */
  draw(
    stand: Stand,
    size: { readonly width: number; readonly height: number },
    ratio: number,
    background: string,
  ): void {
    const { turn, rise, at, scale } = stand;
    this.renderer.setPixelRatio(ratio);
    this.renderer.setSize(size.width, size.height, false);
    this.renderer.setClearColor(background);
    const [w, h] = [size.width / 2 / scale, size.height / 2 / scale];
    Object.assign(this.camera, { left: -w, right: w, top: h, bottom: -h, near: -1e4, far: 1e4 });
    const away = new THREE.Vector3(
      Math.cos(rise) * Math.sin(turn),
      -Math.cos(rise) * Math.cos(turn),
      Math.sin(rise),
    );
    this.camera.up.set(-Math.sin(turn) * Math.sin(rise), Math.cos(turn) * Math.sin(rise), Math.cos(rise));
    this.camera.position.set(...at).addScaledVector(away, 100);
    this.camera.lookAt(...at);
    this.camera.updateProjectionMatrix();
    this.renderer.render(this.scene, this.camera);
  }
}
