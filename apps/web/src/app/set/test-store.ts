import { Actions } from '@ngrx/effects';
import type { Action, ActionReducer, Store } from '@ngrx/store';
import { BehaviorSubject, distinctUntilChanged, map, type Observable, Subject, type Subscription } from 'rxjs';

/** Any feature of the store. */
interface Feature {
  name: string;
  // Each reducer has a state of its own type; here they are only passed on.
  // eslint-disable-next-line @typescript-eslint/no-explicit-any
  reducer: ActionReducer<any>;
}

/** A store of some features for tests of effects: reducers come first, then effects, as in the real one. */
export class TestStore {
  /** Actions that effects have sent, in their order. */
  readonly said: Action[] = [];
  private readonly states: BehaviorSubject<Record<string, unknown>>;
  private readonly came = new Subject<Action>();

  constructor(private readonly features: readonly Feature[]) {
    this.states = new BehaviorSubject(this.after({}, { type: 'test' }));
  }

  /** As effects ask for it. */
  get store(): Store {
    const select = <T>(selector: (root: object) => T): Observable<T> =>
      this.states.pipe(
        map((state) => selector(state)),
        distinctUntilChanged(),
      );
    return { select } as unknown as Store;
  }

  get actions(): Actions {
    return new Actions(this.came);
  }

  readonly dispatch = (...actions: Action[]): void => {
    for (const action of actions) {
      this.states.next(this.after(this.states.value, action));
      this.came.next(action);
    }
  };

  /** What a selector gives now. */
  now<T>(selector: (root: never) => T): T {
    return selector(this.states.value as never);
  }

  /** Lets an effect run: what it sends comes back into the store. */
  run(effect: Observable<Action>): Subscription {
    return effect.subscribe((action) => {
      this.said.push(action);
      this.dispatch(action);
    });
  }

  private after(state: Record<string, unknown>, action: Action): Record<string, unknown> {
    return Object.fromEntries(this.features.map(({ name, reducer }) => [name, reducer(state[name], action) as unknown]));
  }
}
