;; What voices send into spaces: a block of two channels, added at a level into as many others as there are spaces.
;; Assembled into sends-wasm.ts by `node scripts/assemble.mjs`.
(module
  (memory (export "memory") 4)
  ;; In bytes: 0 the block that is sent, left and right one after the other; from 1024 on, in the same way, what each space is sent.

  ;; into[i] += (gain + (i mod 128) step) block[i], over both channels
  (func (export "add") (param $into i32) (param $gain f32) (param $step f32)
    (local $at i32) (local $end i32) (local $levels v128) (local $first v128) (local $more v128)
    (local.set $first (f32x4.add (f32x4.splat (local.get $gain)) (f32x4.mul (f32x4.splat (local.get $step)) (v128.const f32x4 0 1 2 3))))
    (local.set $more (f32x4.splat (f32.mul (local.get $step) (f32.const 4))))
    (loop $channels
      (local.set $end (i32.add (local.get $at) (i32.const 512)))
      (local.set $levels (local.get $first))
      (loop $frames
        (v128.store (i32.add (local.get $into) (local.get $at)) (f32x4.add
          (v128.load (i32.add (local.get $into) (local.get $at)))
          (f32x4.mul (local.get $levels) (v128.load (local.get $at)))))
        (local.set $levels (f32x4.add (local.get $levels) (local.get $more)))
        (local.set $at (i32.add (local.get $at) (i32.const 16)))
        (br_if $frames (i32.lt_u (local.get $at) (local.get $end))))
      (br_if $channels (i32.lt_u (local.get $at) (i32.const 1024))))))
