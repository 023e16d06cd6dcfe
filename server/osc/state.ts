/** What is told of a controller on the page. */
export interface OscSeen {
  readonly address: string;
  readonly port: number;
  readonly subscribed: boolean;
  readonly messages: number;
  readonly last: string;
  /** Seconds since it said anything. */
  readonly ago: number;
}
export interface OscState {
  readonly on: boolean;
  readonly host: string;
  readonly port: number;
  readonly session: string | null;
  readonly controllers: readonly OscSeen[];
  readonly taken: number;
  readonly dropped: number;
  readonly broken: number;
}
