/** A filter of second order. */
export class Biquad {
  private x1 = 0;
  private x2 = 0;
  private y1 = 0;
  private y2 = 0;

  private constructor(
    private readonly b0: number,
    private readonly b1: number,
    private readonly b2: number,
    private readonly a1: number,
    private readonly a2: number,
  ) {}

  /** Lets pass what lies above a frequency. Source: R. Bristow-Johnson, Audio EQ Cookbook. */
  static highPass(hertz: number, rate: number, q = Math.SQRT1_2): Biquad {
    const { cos, alpha } = angles(hertz, rate, q);
    const a0 = 1 + alpha;
    return new Biquad((1 + cos) / 2 / a0, -(1 + cos) / a0, (1 + cos) / 2 / a0, (-2 * cos) / a0, (1 - alpha) / a0);
  }

  /** Takes out one frequency. Source: as above. */
  static notch(hertz: number, rate: number, q: number): Biquad {
    const { cos, alpha } = angles(hertz, rate, q);
    const a0 = 1 + alpha;
    return new Biquad(1 / a0, (-2 * cos) / a0, 1 / a0, (-2 * cos) / a0, (1 - alpha) / a0);
  }

  /** Filters samples in place. */
  apply(samples: Float32Array): void {
    let { x1, x2, y1, y2 } = this;
    for (let k = 0; k < samples.length; k++) {
      const x = samples[k] as number;
      const y = this.b0 * x + this.b1 * x1 + this.b2 * x2 - this.a1 * y1 - this.a2 * y2;
      x2 = x1;
      x1 = x;
      y2 = y1;
      y1 = y;
      samples[k] = y;
    }
    this.x1 = x1;
    this.x2 = x2;
    // What fades away for ever would slow everything down once it is too small for a float to hold well.
    this.y1 = Math.abs(y1) < 1e-20 ? 0 : y1;
    this.y2 = Math.abs(y2) < 1e-20 ? 0 : y2;
  }
}

function angles(hertz: number, rate: number, q: number) {
  const omega = (2 * Math.PI * hertz) / rate;
  return { cos: Math.cos(omega), alpha: Math.sin(omega) / (2 * q) };
}
