/** Less than this share of their power is left of two channels that are opposite in sign, once they are mixed into one. */
const LEFT_OVER = 0.1;
/** Mean square of samples in -1..1 under which nothing is said of them: 70 dB below full scale. */
const FAINT = 1e-7;

/**
 * Whether two channels are opposite in sign, as where one end of a cable is wired the wrong way round: each is heard, and mixed into one they
 * cancel each other. One voice is left whole by mixing, two channels that have nothing in common keep half, and so does one beside an empty one.
 * @param interleaved 16-bit samples, left and right in turn
 */
export function areOpposed(interleaved: Int16Array): boolean {
  const count = interleaved.length >> 1;
  let [apart, mixed] = [0, 0];
  for (let k = 0; k < count; k++) {
    const [left, right] = [(interleaved[2 * k] as number) / 32_768, (interleaved[2 * k + 1] as number) / 32_768];
    apart += (left * left + right * right) / 2;
    mixed += ((left + right) / 2) ** 2;
  }
  return apart > FAINT * count && mixed < LEFT_OVER * apart;
}
