;; The inner loop of a reverb's network: eight delay lines that feed each other, for a block of 128 frames, four lines at a time.
;; Memory: 0 where each line is (8 i32, frames), 32 how long it is (8 i32, frames), 64 what its low pass holds (8 f32), 96 its gain (8), 128 what that
;; grows by in a frame (8), 160 and 192 the signs with which it reaches the left and the right output (8 each), 256 and 768 the input's sides (128 f32
;; each; left into even lines, right into odd ones), 1280 and 1792 the output's, 2304 what the lines give and then take (8 times 128), 6400 the lines,
;; one after the other.
;; Assembled into network-wasm.ts by `node scripts/assemble.mjs`.
(module
  (memory (export "memory") 3)

  ;; The sum of four lanes.
  (func $sum (param $v v128) (result f32)
    (f32.add
      (f32.add (f32x4.extract_lane 0 (local.get $v)) (f32x4.extract_lane 1 (local.get $v)))
      (f32.add (f32x4.extract_lane 2 (local.get $v)) (f32x4.extract_lane 3 (local.get $v)))))

  ;; Below -300 dB there are only slow denormal numbers.
  (func $quiet (param $v v128) (result v128)
    (v128.and (local.get $v) (f32x4.gt (f32x4.abs (local.get $v)) (v128.const f32x4 1e-15 1e-15 1e-15 1e-15))))

  ;; Copies each line's oldest block out, or puts the new one in its place and moves on.
  (func $exchange (param $isBack i32)
    (local $k i32) (local $block i32) (local $line i32) (local $length i32) (local $at i32) (local $first i32)
    (local.set $block (i32.const 2304))
    (local.set $line (i32.const 6400))
    (loop $lines
      (local.set $at (i32.load (local.get $k)))
      (local.set $length (i32.load offset=32 (local.get $k)))
      (local.set $first (i32.sub (local.get $length) (local.get $at)))
      (if (i32.gt_s (local.get $first) (i32.const 128)) (then (local.set $first (i32.const 128))))
      (if (local.get $isBack)
        (then
          (memory.copy
            (i32.add (local.get $line) (i32.shl (local.get $at) (i32.const 2))) (local.get $block) (i32.shl (local.get $first) (i32.const 2)))
          (memory.copy
            (local.get $line)
            (i32.add (local.get $block) (i32.shl (local.get $first) (i32.const 2)))
            (i32.shl (i32.sub (i32.const 128) (local.get $first)) (i32.const 2)))
          (i32.store (local.get $k) (i32.rem_u (i32.add (local.get $at) (i32.const 128)) (local.get $length))))
        (else
          (memory.copy
            (local.get $block) (i32.add (local.get $line) (i32.shl (local.get $at) (i32.const 2))) (i32.shl (local.get $first) (i32.const 2)))
          (memory.copy
            (i32.add (local.get $block) (i32.shl (local.get $first) (i32.const 2)))
            (local.get $line)
            (i32.shl (i32.sub (i32.const 128) (local.get $first)) (i32.const 2)))))
      (local.set $line (i32.add (local.get $line) (i32.shl (local.get $length) (i32.const 2))))
      (local.set $block (i32.add (local.get $block) (i32.const 512)))
      (local.set $k (i32.add (local.get $k) (i32.const 4)))
      (br_if $lines (i32.lt_u (local.get $k) (i32.const 32)))))

  (func (export "run")
    (param $damping f32)    ;; the pole of each line's low pass
    (local $p i32) (local $d v128) (local $a v128) (local $b v128) (local $stateA v128) (local $stateB v128) (local $gainA v128) (local $gainB v128)
    (local $share f32) (local $left f32) (local $right f32) (local $input v128)
    (call $exchange (i32.const 0))
    (local.set $d (f32x4.splat (local.get $damping)))
    (local.set $stateA (v128.load offset=64 (i32.const 0)))
    (local.set $stateB (v128.load offset=80 (i32.const 0)))
    (local.set $gainA (v128.load offset=96 (i32.const 0)))
    (local.set $gainB (v128.load offset=112 (i32.const 0)))
    (loop $frames
        (local.set $a (v128.load32_zero offset=2304 (local.get $p)))
        (local.set $a (v128.load32_lane offset=2816 1 (local.get $p) (local.get $a)))
        (local.set $a (v128.load32_lane offset=3328 2 (local.get $p) (local.get $a)))
        (local.set $a (v128.load32_lane offset=3840 3 (local.get $p) (local.get $a)))
        (local.set $b (v128.load32_zero offset=4352 (local.get $p)))
        (local.set $b (v128.load32_lane offset=4864 1 (local.get $p) (local.get $b)))
        (local.set $b (v128.load32_lane offset=5376 2 (local.get $p) (local.get $b)))
        (local.set $b (v128.load32_lane offset=5888 3 (local.get $p) (local.get $b)))
        (f32.store offset=1280 (local.get $p) (call $sum (f32x4.add
          (f32x4.mul (local.get $a) (v128.load offset=160 (i32.const 0))) (f32x4.mul (local.get $b) (v128.load offset=176 (i32.const 0))))))
        (f32.store offset=1792 (local.get $p) (call $sum (f32x4.add
          (f32x4.mul (local.get $a) (v128.load offset=192 (i32.const 0))) (f32x4.mul (local.get $b) (v128.load offset=208 (i32.const 0))))))
        ;; Damped, and softer by the line's gain.
        (local.set $stateA (f32x4.add (local.get $a) (f32x4.mul (local.get $d) (f32x4.sub (local.get $stateA) (local.get $a)))))
        (local.set $stateB (f32x4.add (local.get $b) (f32x4.mul (local.get $d) (f32x4.sub (local.get $stateB) (local.get $b)))))
        (local.set $a (f32x4.mul (local.get $stateA) (local.get $gainA)))
        (local.set $b (f32x4.mul (local.get $stateB) (local.get $gainB)))
        (local.set $gainA (f32x4.add (local.get $gainA) (v128.load offset=128 (i32.const 0))))
        (local.set $gainB (f32x4.add (local.get $gainB) (v128.load offset=144 (i32.const 0))))
        ;; Householder's reflection mixes all lines without loss.
        (local.set $share (f32.mul (f32.const 0.25) (call $sum (f32x4.add (local.get $a) (local.get $b)))))
        (local.set $left (f32.sub (f32.load offset=256 (local.get $p)) (local.get $share)))
        (local.set $right (f32.sub (f32.load offset=768 (local.get $p)) (local.get $share)))
        (local.set $input (f32x4.replace_lane 3 (f32x4.replace_lane 1 (f32x4.splat (local.get $left)) (local.get $right)) (local.get $right)))
        (local.set $a (call $quiet (f32x4.add (local.get $a) (local.get $input))))
        (local.set $b (call $quiet (f32x4.add (local.get $b) (local.get $input))))
        (v128.store32_lane offset=2304 0 (local.get $p) (local.get $a))
        (v128.store32_lane offset=2816 1 (local.get $p) (local.get $a))
        (v128.store32_lane offset=3328 2 (local.get $p) (local.get $a))
        (v128.store32_lane offset=3840 3 (local.get $p) (local.get $a))
        (v128.store32_lane offset=4352 0 (local.get $p) (local.get $b))
        (v128.store32_lane offset=4864 1 (local.get $p) (local.get $b))
        (v128.store32_lane offset=5376 2 (local.get $p) (local.get $b))
        (v128.store32_lane offset=5888 3 (local.get $p) (local.get $b))
        (local.set $p (i32.add (local.get $p) (i32.const 4)))
        (br_if $frames (i32.lt_u (local.get $p) (i32.const 512))))
    (v128.store offset=64 (i32.const 0) (call $quiet (local.get $stateA)))
    (v128.store offset=80 (i32.const 0) (call $quiet (local.get $stateB)))
    (call $exchange (i32.const 1))))
