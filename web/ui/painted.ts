/** What a picture was painted from: it is painted again where any of it is another. Makes nothing anew in a picture. */
export class Painted {
  private readonly values: unknown[] = [];
  private count = 0;
  private moved = false;

  /** Begins to look. @returns takes each value that the picture depends on, always in one order */
  begin(): (value: unknown) => void {
    this.values.length = this.count;
    this.moved = false;
    this.count = 0;
    return this.note;
  }
  private readonly note = (value: unknown): void => {
    if (this.count < this.values.length && Object.is(this.values[this.count], value)) this.count++;
    else {
      this.values[this.count++] = value;
      this.moved = true;
    }
  };
  /** Whether anything was another than the last time. */
  get other(): boolean {
    return this.moved || this.count !== this.values.length;
  }
}
