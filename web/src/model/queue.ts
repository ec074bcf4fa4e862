import type { Stale } from "../lib/api";
import { type Change, merged } from "./change";

/** Changes that are one step to undo, and what is to be kept of them once they are saved. */
export interface Step {
  changes: Change[];
  remember: () => void;
}

/** Steps that are not saved, in order, and why; they stay on screen until they are sent again or let go. */
export interface Unsent {
  reason: string;
  steps: Step[];
  /** Nothing reaches the server, so what comes after them waits, too. */
  blocks: boolean;
}

/** What somebody else's save refused, and all that was on its way behind it: laid anew together, or let go together. */
export interface Behind {
  answer: Stale;
  steps: Step[];
}

/** Why a step was not saved. */
export interface Failure {
  message: string;
  /** Both versions, where somebody else saved first. */
  stale?: Stale;
  /** It says nothing about the change itself: no connection, signed out, the server in trouble. */
  passing: boolean;
}

/** Steps back and forward. */
export interface History {
  done: Change[][];
  undone: Change[][];
}

/** What the queue asks of the world around it. */
export interface Ports {
  /**
   * Save changes made from a version. Answers the version there is then, the parts made on the way, and whether the view
   * has taken the figures of the answer. Throws what `failure` can read.
   */
  save: (version: number, changes: Change[]) => Promise<{ version: number; made: string[]; laid: boolean }>;
  failure: (error: unknown) => Failure;
  /** A change was refused; answers whether it is shown where it was typed, with what was typed. */
  refused: (error: unknown, changes: Change[]) => boolean;
  made: (numbers: string[]) => void;
  /** A step was undone that had made parts. */
  left: (numbers: string[]) => void;
  /** Read again what is shown: all of it, or only what stands elsewhere. */
  reread: (shown: boolean) => Promise<unknown>;
  /** Something of the queue is another now. */
  changed: () => void;
}

const MOST_STEPS = 500;

export function reverse(changes: Change[]): Change[] {
  return changes.map((c) => ({ ...c, before: c.after, after: c.before }) as Change).reverse();
}

/** Edits of one sheet on their way: they show at once, are saved in order, and can be undone. */
export class EditQueue {
  pending: Change[][] = [];
  unsent: Unsent | null = null;
  stale: Behind | null = null;
  /** What the next change is made from. */
  private version = 0;
  private chain: Promise<void> = Promise.resolve();
  private waiting = 0;
  private saved: Change[][] = [];
  private behind: Behind | null = null;
  private madeBy = new WeakMap<Change[], string[]>();

  constructor(
    private readonly ports: Ports,
    private readonly history: History,
  ) {}

  /**
   * The sheet was read at a version: what is typed next is made from that. What waits was made from an older one and stays
   * so, or it would be saved over somebody else's work that its writer has not seen. Answers whether the reading is older
   * than what was saved since it was asked for.
   */
  read(version: number): boolean {
    if (version < this.version) return true;
    if (this.waiting === 0 && !this.behind && !this.unsent) this.version = version;
    return false;
  }

  /** Resolves when all that is on its way now has been answered. */
  settled(): Promise<void> {
    return this.chain;
  }

  edit(changes: Change[]) {
    if (changes.length === 0) return;
    this.send(changes, () => {
      this.history.done.push(changes);
      if (this.history.done.length > MOST_STEPS) this.history.done.shift();
      this.history.undone.length = 0;
    });
  }

  undo(): boolean {
    return this.step(this.history.done, this.history.undone, true);
  }

  redo(): boolean {
    return this.step(this.history.undone, this.history.done, false);
  }

  /** Send what did not reach the server once more, or let it go. */
  settleUnsent(again: boolean) {
    const steps = this.unsent?.steps ?? [];
    this.unsent = null;
    this.goOn(steps, again);
    if (!again) this.ports.reread(true);
    this.ports.changed();
  }

  /** After both versions were seen: lay all that waits on theirs, in order, or let it go. */
  settleStale(mine: boolean) {
    const waits = this.behind;
    if (!waits) return;
    this.behind = this.stale = null;
    this.version = waits.answer.version;
    this.goOn(waits.steps, mine);
    this.ports.reread(true);
    this.ports.changed();
  }

  private goOn(steps: Step[], again: boolean) {
    if (again) for (const step of steps) this.send(step.changes, step.remember);
    else this.forget(steps.map((step) => step.changes));
  }

  private forget(gone: Change[][]) {
    this.pending = this.pending.filter((other) => !gone.includes(other));
  }

  private keepUnsent(step: Step, reason: string, blocks: boolean) {
    const { steps = [], blocks: blocked = false } = this.unsent ?? {};
    this.unsent = { reason, steps: [...steps, step], blocks: blocks || blocked };
  }

  private send(changes: Change[], remember: () => void) {
    if (!this.pending.includes(changes)) this.pending = [...this.pending, changes];
    this.waiting += 1;
    this.chain = this.chain.then(async () => {
      if (await this.deliver({ changes, remember })) this.forget([changes]);
      this.waiting -= 1;
      // Where the answers brought no figures they are asked for once, when the last change on its way has been saved;
      // what is laid on them stays until they are there, and what was typed meanwhile stays longer.
      if (this.waiting === 0) {
        const settled = this.saved.splice(0);
        await this.ports.reread(settled.length > 0);
        this.forget(settled);
        await this.showBehind();
      }
      this.ports.changed();
    });
    this.ports.changed();
  }

  /** Save one step; what is refused stays where a person can see it. Answers whether the step is settled. */
  private async deliver(step: Step): Promise<boolean> {
    if (this.unsent?.blocks) {
      this.keepUnsent(step, this.unsent.reason, true);
      return false;
    }
    if (this.behind) {
      this.behind.steps.push(step);
      return false;
    }
    try {
      const { version, made, laid } = await this.ports.save(this.version, step.changes);
      this.version = version;
      if (made.length > 0) {
        this.madeBy.set(step.changes, made);
        this.ports.made(made);
      }
      if (!laid) this.saved.push(step.changes);
      step.remember();
      return laid;
    } catch (error) {
      const { stale, passing, message } = this.ports.failure(error);
      if (stale) this.behind = { answer: stale, steps: [step] };
      else if (passing) this.keepUnsent(step, message, true);
      else if (this.ports.refused(error, step.changes)) return true;
      else this.keepUnsent(step, message, false);
      return false;
    }
  }

  /** Show both versions of all that waits behind somebody else's save. */
  private async showBehind() {
    const waits = this.behind;
    if (!waits) return;
    if (waits.steps.length > 1) {
      // Asked with the old version, the server saves nothing and says how all of it stands against theirs.
      const changes = merged(waits.steps.flatMap((step) => step.changes));
      await this.ports.save(this.version, changes).catch((error) => {
        const { stale } = this.ports.failure(error);
        if (stale) waits.answer = stale;
      });
    }
    this.stale = { ...waits };
  }

  private step(from: Change[][], to: Change[][], turned: boolean): boolean {
    const take = () => {
      const last = from.pop();
      if (last)
        this.send(turned ? reverse(last) : last, () => {
          to.push(last);
          const made = this.madeBy.get(last);
          if (turned && made) this.ports.left(made);
        });
      return !!last;
    };
    // What is still on its way is the last step: it is waited for, or the one before it would be taken.
    if (this.waiting === 0) return take();
    this.chain = this.chain.then(() => {
      take();
    });
    return true;
  }
}
