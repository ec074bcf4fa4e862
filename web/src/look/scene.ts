import {
  AmbientLight,
  Box3,
  type BufferGeometry,
  Color,
  DirectionalLight,
  DoubleSide,
  EdgesGeometry,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  MeshStandardMaterial,
  type Object3D,
  PerspectiveCamera,
  Raycaster,
  Scene,
  Spherical,
  Vector2,
  Vector3,
  WebGLRenderer,
} from "three";
import { OrbitControls } from "three/addons/controls/OrbitControls.js";
import { GLTFLoader } from "three/addons/loaders/GLTFLoader.js";

/** From where it is looked at, y upward. */
export const SIDES = {
  corner: [1, 0.8, 1.2],
  above: [0, 1, 0.0001],
  front: [0, 0, 1],
  right: [1, 0, 0],
} as const;
export type Side = keyof typeof SIDES;

/** One thing in its place, and by what it moves away from the middle of what holds it. */
interface Standing {
  node: Object3D;
  depth: number;
  at: Vector3;
  away: Vector3;
}

/** Edges sharper than this, in degrees, are drawn as lines. */
const SHARP = 28;
/** How far things go apart at the most, in distances from the middle. */
const FARTHEST = 1.6;
/** A press that moves less than this, in pixels, means what lies beneath it. */
const STILL = 4;

/** An assembly on a canvas: turned, taken apart by levels, its parts told by their names. Drawn only when something changes. */
export class LookScene {
  readonly depth: number;
  private readonly renderer: WebGLRenderer;
  private readonly scene = new Scene();
  private readonly camera = new PerspectiveCamera(35, 1, 0.001, 1000);
  private readonly controls: OrbitControls;
  private readonly standing: Standing[] = [];
  private readonly meshes = new Map<string, Mesh[]>();
  private readonly plain = new Map<Mesh, MeshStandardMaterial>();
  private readonly chosen: MeshStandardMaterial;
  private readonly ink: LineBasicMaterial;
  private pressed = new Vector2();
  private waiting = 0;

  private constructor(
    private readonly canvas: HTMLCanvasElement,
    private readonly whole: Object3D,
    private readonly onPick: (name: string | null) => void,
  ) {
    this.renderer = new WebGLRenderer({ canvas, antialias: true, alpha: true });
    this.renderer.setPixelRatio(Math.min(window.devicePixelRatio, 2));
    this.chosen = new MeshStandardMaterial({ side: DoubleSide });
    this.ink = new LineBasicMaterial();
    this.scene.add(whole, new AmbientLight("#ffffff", 1.6));
    // The light comes from over the left shoulder of who looks.
    const light = new DirectionalLight("#ffffff", 2.2);
    light.position.set(-0.6, 1, 0.8);
    this.camera.add(light);
    this.scene.add(this.camera);
    this.drawn();
    this.depth = this.placed();
    this.controls = new OrbitControls(this.camera, canvas);
    this.controls.addEventListener("change", this.later);
    canvas.addEventListener("pointerdown", this.press);
    canvas.addEventListener("pointerup", this.release);
    this.recolour();
    this.fit("corner");
  }

  /** Read glTF and show it. Rejects where it cannot be read, or the browser draws nothing of that kind. */
  static async of(
    canvas: HTMLCanvasElement,
    content: ArrayBuffer,
    onPick: (name: string | null) => void,
  ): Promise<LookScene> {
    const read = await new GLTFLoader().parseAsync(content, "");
    return new LookScene(canvas, read.scene, onPick);
  }

  /** Ink on every edge, light by every face, and every mesh under the name that its model has for it. */
  private drawn(): void {
    const edges = new Map<BufferGeometry, EdgesGeometry>();
    const meshes: Mesh[] = [];
    this.whole.traverse((node) => node instanceof Mesh && meshes.push(node));
    for (const mesh of meshes) {
      const geometry = mesh.geometry as BufferGeometry;
      if (!edges.has(geometry)) {
        geometry.computeVertexNormals();
        edges.set(geometry, new EdgesGeometry(geometry, SHARP));
      }
      const own = mesh.material as MeshStandardMaterial;
      own.flatShading = false;
      own.side = DoubleSide;
      // Faces a little behind the lines that bound them.
      own.polygonOffset = true;
      own.polygonOffsetFactor = own.polygonOffsetUnits = 1;
      this.plain.set(mesh, own);
      mesh.add(new LineSegments(edges.get(geometry), this.ink));
      const name = nameOf(mesh);
      this.meshes.set(name, [...(this.meshes.get(name) ?? []), mesh]);
    }
    this.chosen.polygonOffset = true;
    this.chosen.polygonOffsetFactor = this.chosen.polygonOffsetUnits = 1;
  }

  /** By what each thing goes apart, in the measures of what holds it; answers how many levels there are. */
  private placed(): number {
    let deepest = 0;
    this.whole.updateWorldMatrix(true, true);
    const middle = (node: Object3D) => new Box3().setFromObject(node).getCenter(new Vector3());
    const walk = (node: Object3D, depth: number) => {
      const below = node.children.filter((child) => child.userData.stands !== undefined);
      const around = below.length > 1 ? middle(node) : null;
      const turned = node.matrixWorld.clone().invert();
      for (const child of below) {
        const away = new Vector3();
        if (around) {
          const origin = new Vector3().applyMatrix4(turned);
          away.copy(middle(child).sub(around)).applyMatrix4(turned).sub(origin);
          this.standing.push({ node: child, depth, at: child.position.clone(), away });
          deepest = Math.max(deepest, depth);
        }
        walk(child, around ? depth + 1 : depth);
      }
    };
    this.whole.traverse((node) => {
      if (!(node instanceof LineSegments)) node.userData.stands = true;
    });
    walk(this.whole, 1);
    return deepest;
  }

  /** Take it apart: from 0, as it stands, to 1; down to a level. Who looks steps back as far as it grows. */
  apart(share: number, depth: number): void {
    const before = this.around();
    for (const s of this.standing)
      s.node.position.copy(s.at).addScaledVector(s.away, s.depth <= depth ? share * FARTHEST : 0);
    const after = this.around();
    const seen = this.camera.position.clone().sub(this.controls.target);
    this.controls.target.add(after.middle).sub(before.middle);
    this.camera.position.copy(this.controls.target).addScaledVector(seen, after.radius / before.radius);
    this.controls.update();
    this.later();
  }

  private around(): { middle: Vector3; radius: number } {
    const box = new Box3().setFromObject(this.whole);
    return { middle: box.getCenter(new Vector3()), radius: Math.max(1e-6, box.getSize(new Vector3()).length() / 2) };
  }

  /** Show what is chosen in blue; `alone`: nothing beside it. */
  choose(name: string | null, alone: boolean): void {
    for (const [own, meshes] of this.meshes)
      for (const mesh of meshes) {
        mesh.material = own === name ? this.chosen : this.plain.get(mesh)!;
        mesh.visible = !alone || name === null || own === name;
      }
    this.later();
  }

  /** Look from a side, at all of it. */
  fit(side: Side): void {
    const { middle, radius } = this.around();
    const far = radius / Math.sin((this.camera.fov * Math.PI) / 360);
    const [x, y, z] = SIDES[side];
    this.camera.position.copy(middle).addScaledVector(new Vector3(x, y, z).normalize(), far * 1.05);
    this.camera.near = far / 100;
    this.camera.far = far * 20;
    this.camera.updateProjectionMatrix();
    this.controls.target.copy(middle);
    this.controls.update();
    this.later();
  }

  /** Turn it by keys, in degrees; nearer with a factor below 1. */
  turn(across: number, up: number, nearer = 1): void {
    const seen = new Spherical().setFromVector3(this.camera.position.clone().sub(this.controls.target));
    seen.theta -= (across * Math.PI) / 180;
    seen.phi = Math.min(Math.PI - 0.01, Math.max(0.01, seen.phi - (up * Math.PI) / 180));
    seen.radius *= nearer;
    this.camera.position.setFromSpherical(seen).add(this.controls.target);
    this.controls.update();
    this.later();
  }

  /** Take the colours that the page has now. */
  recolour(): void {
    const style = getComputedStyle(this.canvas);
    this.chosen.color = new Color(style.getPropertyValue("--blue").trim());
    this.ink.color = new Color(style.getPropertyValue("--ink").trim());
    this.later();
  }

  resize(width: number, height: number): void {
    this.renderer.setSize(width, height, false);
    this.camera.aspect = width / Math.max(1, height);
    this.camera.updateProjectionMatrix();
    this.later();
  }

  dispose(): void {
    cancelAnimationFrame(this.waiting);
    this.canvas.removeEventListener("pointerdown", this.press);
    this.canvas.removeEventListener("pointerup", this.release);
    this.controls.dispose();
    this.whole.traverse((node) => {
      if (node instanceof Mesh || node instanceof LineSegments) node.geometry.dispose();
    });
    this.renderer.dispose();
  }

  private readonly later = (): void => {
    cancelAnimationFrame(this.waiting);
    this.waiting = requestAnimationFrame(() => this.renderer.render(this.scene, this.camera));
  };

  private readonly press = (event: PointerEvent): void => {
    this.pressed.set(event.clientX, event.clientY);
  };

  private readonly release = (event: PointerEvent): void => {
    if (this.pressed.distanceTo(new Vector2(event.clientX, event.clientY)) > STILL) return;
    const at = this.canvas.getBoundingClientRect();
    const point = new Vector2(
      ((event.clientX - at.left) / at.width) * 2 - 1,
      1 - ((event.clientY - at.top) / at.height) * 2,
    );
    const ray = new Raycaster();
    ray.setFromCamera(point, this.camera);
    const seen = [...this.plain.keys()].filter((mesh) => mesh.visible);
    const hit = ray.intersectObjects(seen, false)[0];
    this.onPick(hit ? nameOf(hit.object) : null);
  };
}

/** The name that the model has for a thing; the reader of glTF writes names its own way, and keeps the file's beside. */
function nameOf(node: Object3D): string {
  return (node.userData.name as string | undefined) ?? node.name;
}
