import { createCanvas, type SKRSContext2D } from '@napi-rs/canvas';

export const WIDTH = 1280;
export const HEIGHT = 720;

/** What moves in the picture: everything else is painted once. */
export interface Pose {
  /** 0 shut .. 1 wide open */
  readonly mouth: number;
  /** eyes shut */
  readonly blink: boolean;
  /** 0 at rest .. 1 at work over the clock */
  readonly reach: number;
  /** turns the hands while they work, in radians */
  readonly turn: number;
}

/** Paints the presenter at her bench. The same pose gives the same frame, so that frames can be kept and reused. */
export class Painter {
  private readonly canvas = createCanvas(WIDTH, HEIGHT);
  private readonly room = createCanvas(WIDTH, HEIGHT);

  constructor() {
    paintRoom(this.room.getContext('2d'));
  }

  /** RGBA bytes of a frame. */
  paint(pose: Pose): Uint8ClampedArray {
    const c = this.canvas.getContext('2d');
    c.drawImage(this.room, 0, 0);
    paintPresenter(c, pose);
    paintBench(c);
    paintArms(c, pose);
    return c.getImageData(0, 0, WIDTH, HEIGHT).data;
  }
}

function paintRoom(c: SKRSContext2D): void {
  const wall = c.createLinearGradient(0, 0, 0, HEIGHT);
  wall.addColorStop(0, '#33434a');
  wall.addColorStop(1, '#4a5c5e');
  c.fillStyle = wall;
  c.fillRect(0, 0, WIDTH, HEIGHT);
  // window with evening light
  c.fillStyle = '#e9c98c';
  c.fillRect(80, 90, 230, 270);
  c.fillStyle = '#f4dfb0';
  c.fillRect(80, 90, 230, 120);
  c.strokeStyle = '#5a4632';
  c.lineWidth = 12;
  c.strokeRect(80, 90, 230, 270);
  c.beginPath();
  c.moveTo(195, 90);
  c.lineTo(195, 360);
  c.moveTo(80, 220);
  c.lineTo(310, 220);
  c.lineWidth = 7;
  c.stroke();
  // shelf with clocks
  c.fillStyle = '#6e5138';
  c.fillRect(860, 250, 360, 16);
  for (const [x, size, tone, hour] of [
    [915, 46, '#c08a4a', 0.6],
    [1015, 62, '#8f3f2f', 3.1],
    [1125, 50, '#4f6f5d', 5.2],
  ] as const)
    wallClock(c, x, 250 - size - 14, size, tone, hour);
  wallClock(c, 1040, 110, 52, '#7a6a55', 1.55);
  // lamp
  c.strokeStyle = '#22292b';
  c.lineWidth = 9;
  c.beginPath();
  c.moveTo(1130, 560);
  c.lineTo(1090, 400);
  c.lineTo(990, 350);
  c.stroke();
  c.fillStyle = '#22292b';
  c.beginPath();
  c.moveTo(1012, 320);
  c.lineTo(930, 385);
  c.lineTo(1008, 398);
  c.fill();
  const glow = c.createRadialGradient(950, 430, 10, 930, 500, 300);
  glow.addColorStop(0, 'rgba(255,226,150,0.5)');
  glow.addColorStop(1, 'rgba(255,226,150,0)');
  c.fillStyle = glow;
  c.fillRect(560, 330, 660, 390);
}

function wallClock(c: SKRSContext2D, x: number, y: number, r: number, tone: string, hour: number): void {
  c.fillStyle = tone;
  c.beginPath();
  c.arc(x, y, r + 8, 0, 7);
  c.fill();
  c.fillStyle = '#f3ead6';
  c.beginPath();
  c.arc(x, y, r - 2, 0, 7);
  c.fill();
  c.strokeStyle = '#2b2620';
  c.lineWidth = 3;
  for (const [angle, length] of [
    [hour, 0.5],
    [hour * 12, 0.78],
  ] as const) {
    c.beginPath();
    c.moveTo(x, y);
    c.lineTo(x + Math.sin(angle) * r * length, y - Math.cos(angle) * r * length);
    c.stroke();
  }
}

function paintPresenter(c: SKRSContext2D, { mouth, blink }: Pose): void {
  c.fillStyle = '#7d3b33';
  c.beginPath();
  c.ellipse(600, 640, 210, 230, 0, 0, 7);
  c.fill();
  c.fillStyle = '#d9a77f';
  c.fillRect(568, 380, 64, 80);
  c.fillStyle = '#3a2b24';
  c.beginPath();
  c.ellipse(600, 285, 122, 132, 0, 0, 7);
  c.fill();
  c.fillStyle = '#e6b98f';
  c.beginPath();
  c.ellipse(600, 310, 98, 116, 0, 0, 7);
  c.fill();
  c.fillStyle = '#3a2b24';
  c.beginPath();
  c.ellipse(600, 212, 100, 46, 0, 0, 7);
  c.fill();
  c.strokeStyle = '#2b2620';
  c.lineWidth = 5;
  for (const x of [560, 640]) {
    c.beginPath();
    if (blink) {
      c.moveTo(x - 13, 300);
      c.lineTo(x + 13, 300);
      c.stroke();
    } else {
      c.fillStyle = '#2b2620';
      c.ellipse(x, 298, 8, 11, 0, 0, 7);
      c.fill();
    }
    // spectacles
    c.beginPath();
    c.arc(x, 300, 31, 0, 7);
    c.stroke();
  }
  c.beginPath();
  c.moveTo(591, 300);
  c.lineTo(609, 300);
  c.stroke();
  c.fillStyle = '#7c2f2c';
  c.beginPath();
  c.ellipse(600, 372, 26 - mouth * 5, 3 + mouth * 19, 0, 0, 7);
  c.fill();
}

function paintBench(c: SKRSContext2D): void {
  c.fillStyle = '#5d4229';
  c.fillRect(0, 560, WIDTH, 160);
  c.fillStyle = '#77552f';
  c.fillRect(0, 560, WIDTH, 20);
  // the carriage clock under repair
  c.fillStyle = '#c9a14e';
  c.fillRect(760, 430, 150, 150);
  c.fillStyle = '#f5efdf';
  c.beginPath();
  c.arc(835, 500, 52, 0, 7);
  c.fill();
  c.strokeStyle = '#2b2620';
  c.lineWidth = 5;
  c.beginPath();
  c.moveTo(835, 500);
  c.lineTo(862, 495);
  c.moveTo(835, 500);
  c.lineTo(872, 520);
  c.stroke();
  c.strokeStyle = '#8f6d2c';
  c.beginPath();
  c.arc(835, 428, 34, Math.PI, 0);
  c.stroke();
  // tray of screws
  c.fillStyle = '#39474a';
  c.fillRect(300, 590, 190, 40);
  c.fillStyle = '#cfd3cc';
  for (let k = 0; k < 9; k++) c.fillRect(316 + k * 19, 604 + (k % 2) * 8, 9, 6);
}

function paintArms(c: SKRSContext2D, { reach, turn }: Pose): void {
  const hands = [
    { x: 470 + reach * 255, y: 640 - reach * 75 + Math.sin(turn) * 8 * reach },
    { x: 730 + reach * 170, y: 640 - reach * 60 - Math.cos(turn) * 10 * reach },
  ];
  for (const [k, { x, y }] of hands.entries()) {
    c.strokeStyle = '#7d3b33';
    c.lineCap = 'round';
    c.lineWidth = 58;
    c.beginPath();
    c.moveTo(k === 0 ? 440 : 765, 690);
    c.lineTo(x, y + 25);
    c.stroke();
    c.fillStyle = '#e6b98f';
    c.beginPath();
    c.ellipse(x, y, 34, 26, 0.3, 0, 7);
    c.fill();
  }
  if (reach > 0.5) {
    c.strokeStyle = '#d8dcd6';
    c.lineWidth = 6;
    const right = hands[1] as { x: number; y: number };
    c.beginPath();
    c.moveTo(right.x - 10, right.y);
    c.lineTo(right.x - 55, right.y - 40 + Math.sin(turn) * 6);
    c.stroke();
  }
}
