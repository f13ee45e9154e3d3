;; Rings of frames: a block is put into one, taken out of it, added from it at a level, or sent through it as an all-pass. A ring is longer
;; than a block, so that a block may be read before it is written. Addresses in bytes, counts and places in frames; blocks of 128.
;; Assembled into walls-wasm.ts by `node scripts/assemble.mjs`.
(module
  (memory (export "memory") 3)

  ;; How many frames of a block lie before the ring's end.
  (func $first (param $frames i32) (param $from i32) (result i32)
    (local.set $frames (i32.sub (local.get $frames) (local.get $from)))
    (select (i32.const 128) (local.get $frames) (i32.gt_u (local.get $frames) (i32.const 128))))

  (func $bytes (param $frames i32) (result i32) (i32.shl (local.get $frames) (i32.const 2)))

  (func (export "put") (param $ring i32) (param $frames i32) (param $at i32) (param $block i32)
    (local $first i32)
    (local.set $first (call $bytes (call $first (local.get $frames) (local.get $at))))
    (memory.copy (i32.add (local.get $ring) (call $bytes (local.get $at))) (local.get $block) (local.get $first))
    (memory.copy (local.get $ring) (i32.add (local.get $block) (local.get $first)) (i32.sub (i32.const 512) (local.get $first))))

  (func (export "get") (param $ring i32) (param $frames i32) (param $from i32) (param $block i32)
    (local $first i32)
    (local.set $first (call $bytes (call $first (local.get $frames) (local.get $from))))
    (memory.copy (local.get $block) (i32.add (local.get $ring) (call $bytes (local.get $from))) (local.get $first))
    (memory.copy (i32.add (local.get $block) (local.get $first)) (local.get $ring) (i32.sub (i32.const 512) (local.get $first))))

  ;; into[i] += gain from[i]; four at a time, and what is left one by one.
  (func $addRun (param $into i32) (param $from i32) (param $bytes i32) (param $gain f32)
    (local $end i32) (local $gains v128)
    (local.set $end (i32.add (local.get $into) (local.get $bytes)))
    (local.set $gains (f32x4.splat (local.get $gain)))
    (block $fours
      (loop $four
        (br_if $fours (i32.gt_u (i32.add (local.get $into) (i32.const 16)) (local.get $end)))
        (v128.store align=4 (local.get $into) (f32x4.add (v128.load align=4 (local.get $into))
          (f32x4.mul (local.get $gains) (v128.load align=4 (local.get $from)))))
        (local.set $into (i32.add (local.get $into) (i32.const 16)))
        (local.set $from (i32.add (local.get $from) (i32.const 16)))
        (br $four)))
    (block $done
      (loop $one
        (br_if $done (i32.ge_u (local.get $into) (local.get $end)))
        (f32.store (local.get $into) (f32.add (f32.load (local.get $into)) (f32.mul (local.get $gain) (f32.load (local.get $from)))))
        (local.set $into (i32.add (local.get $into) (i32.const 4)))
        (local.set $from (i32.add (local.get $from) (i32.const 4)))
        (br $one))))

  (func (export "tap") (param $ring i32) (param $frames i32) (param $from i32) (param $into i32) (param $gain f32)
    (local $first i32)
    (local.set $first (call $bytes (call $first (local.get $frames) (local.get $from))))
    (call $addRun (local.get $into) (i32.add (local.get $ring) (call $bytes (local.get $from))) (local.get $first) (local.get $gain))
    (call $addRun (i32.add (local.get $into) (local.get $first)) (local.get $ring) (i32.sub (i32.const 512) (local.get $first)) (local.get $gain)))

  ;; fed = block + gain ring; block = ring - gain fed; ring = fed, or nothing below -300 dB, where there are only slow denormal numbers.
  (func $smearRun (param $block i32) (param $ring i32) (param $bytes i32) (param $gain f32)
    (local $end i32) (local $gains v128) (local $late v128) (local $fed v128) (local $lateOne f32) (local $fedOne f32)
    (local.set $end (i32.add (local.get $block) (local.get $bytes)))
    (local.set $gains (f32x4.splat (local.get $gain)))
    (block $fours
      (loop $four
        (br_if $fours (i32.gt_u (i32.add (local.get $block) (i32.const 16)) (local.get $end)))
        (local.set $late (v128.load align=4 (local.get $ring)))
        (local.set $fed (f32x4.add (v128.load align=4 (local.get $block)) (f32x4.mul (local.get $gains) (local.get $late))))
        (v128.store align=4 (local.get $block) (f32x4.sub (local.get $late) (f32x4.mul (local.get $gains) (local.get $fed))))
        (v128.store align=4 (local.get $ring) (v128.and (local.get $fed)
          (f32x4.ge (f32x4.abs (local.get $fed)) (v128.const f32x4 1e-15 1e-15 1e-15 1e-15))))
        (local.set $block (i32.add (local.get $block) (i32.const 16)))
        (local.set $ring (i32.add (local.get $ring) (i32.const 16)))
        (br $four)))
    (block $done
      (loop $one
        (br_if $done (i32.ge_u (local.get $block) (local.get $end)))
        (local.set $lateOne (f32.load (local.get $ring)))
        (local.set $fedOne (f32.add (f32.load (local.get $block)) (f32.mul (local.get $gain) (local.get $lateOne))))
        (f32.store (local.get $block) (f32.sub (local.get $lateOne) (f32.mul (local.get $gain) (local.get $fedOne))))
        (f32.store (local.get $ring) (select (local.get $fedOne) (f32.const 0) (f32.ge (f32.abs (local.get $fedOne)) (f32.const 1e-15))))
        (local.set $block (i32.add (local.get $block) (i32.const 4)))
        (local.set $ring (i32.add (local.get $ring) (i32.const 4)))
        (br $one))))

  (func (export "smear") (param $ring i32) (param $frames i32) (param $at i32) (param $block i32) (param $gain f32)
    (local $first i32)
    (local.set $first (call $bytes (call $first (local.get $frames) (local.get $at))))
    (call $smearRun (local.get $block) (i32.add (local.get $ring) (call $bytes (local.get $at))) (local.get $first) (local.get $gain))
    (call $smearRun (i32.add (local.get $block) (local.get $first)) (local.get $ring) (i32.sub (i32.const 512) (local.get $first)) (local.get $gain))))
