// numbers.ts in linear memory: an array is the address of its first number.
@unmanaged export class Floats {
  @inline @operator("[]") get(i: i32): f64 { return load<f64>(changetype<usize>(this) + (<usize>i << 3)); }
  @inline @operator("[]=") put(i: i32, v: f64): void { store<f64>(changetype<usize>(this) + (<usize>i << 3), v); }
}
@unmanaged export class Ints {
  @inline @operator("[]") get(i: i32): i32 { return load<i32>(changetype<usize>(this) + (<usize>i << 2)); }
  @inline @operator("[]=") put(i: i32, v: i32): void { store<i32>(changetype<usize>(this) + (<usize>i << 2), v); }
}
export type Index = i32;
export type Numbers = Floats;
export type Writable = Floats;
export const NONE = changetype<Floats>(<usize>0);
export const NO_INTS = changetype<Ints>(<usize>0);
@inline export function int(x: f64): i32 { return <i32>x; }
@inline export function times(a: i32, b: i32): i32 { return a * b; }
@inline export function copy(to: Floats, from: Floats, count: i32): void {
  memory.copy(changetype<usize>(to), changetype<usize>(from), <usize>count << 3);
}
// Two numbers at two addresses, taken up and put down.
@inline export function pair(a: usize, b: usize): v128 { return v128.load_lane<f64>(b, v128.load_zero<f64>(a), 1); }
@inline export function put(a: usize, b: usize, v: v128): void {
  v128.store_lane<f64>(a, v, 0);
  v128.store_lane<f64>(b, v, 1);
}
