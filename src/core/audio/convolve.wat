;; The inner loops of filters that change a rate: for each output, the dot product of a stretch of input with the taps of its phase,
;; four at a time, in four sums that need not wait for each other.
;; `convolve` takes one channel; `convolvePair` two, for which every tap is fetched once.
;; Assembled into convolve-wasm.ts by `node scripts/assemble.mjs`.
(module
  (memory (export "memory") 1)
  (func (export "convolve")
    (param $input i32)      ;; address of the input; `whole` counts floats from here
    (param $output i32)     ;; address of the output
    (param $count i32)      ;; outputs to make
    (param $phases i32)     ;; address of the taps, phase after phase
    (param $taps i32)       ;; taps a phase, a multiple of sixteen
    (param $up i32)         ;; number of phases
    (param $whole i32)      ;; first input float of the first output
    (param $phase i32)      ;; phase of the first output
    (param $stepWhole i32)  ;; input floats from one output to the next ...
    (param $stepPhase i32)  ;; ... and phases besides
    (local $end i32) (local $x i32) (local $t i32) (local $stop i32) (local $sum v128) (local $sum2 v128) (local $sum3 v128) (local $sum4 v128)
    (local.set $end (i32.add (local.get $output) (i32.shl (local.get $count) (i32.const 2))))
    (block $done
      (loop $outputs
        (br_if $done (i32.ge_u (local.get $output) (local.get $end)))
        (local.set $x (i32.add (local.get $input) (i32.shl (local.get $whole) (i32.const 2))))
        (local.set $t (i32.add (local.get $phases) (i32.shl (i32.mul (local.get $phase) (local.get $taps)) (i32.const 2))))
        (local.set $stop (i32.add (local.get $t) (i32.shl (local.get $taps) (i32.const 2))))
        (local.set $sum (v128.const f32x4 0 0 0 0))
        (local.set $sum2 (v128.const f32x4 0 0 0 0))
        (local.set $sum3 (v128.const f32x4 0 0 0 0))
        (local.set $sum4 (v128.const f32x4 0 0 0 0))
        (loop $dot
          (local.set $sum (f32x4.add (local.get $sum) (f32x4.mul (v128.load align=4 (local.get $x)) (v128.load align=4 (local.get $t)))))
          (local.set $sum2 (f32x4.add (local.get $sum2) (f32x4.mul (v128.load offset=16 align=4 (local.get $x)) (v128.load offset=16 align=4 (local.get $t)))))
          (local.set $sum3 (f32x4.add (local.get $sum3) (f32x4.mul (v128.load offset=32 align=4 (local.get $x)) (v128.load offset=32 align=4 (local.get $t)))))
          (local.set $sum4 (f32x4.add (local.get $sum4) (f32x4.mul (v128.load offset=48 align=4 (local.get $x)) (v128.load offset=48 align=4 (local.get $t)))))
          (local.set $x (i32.add (local.get $x) (i32.const 64)))
          (local.set $t (i32.add (local.get $t) (i32.const 64)))
          (br_if $dot (i32.lt_u (local.get $t) (local.get $stop))))
        (local.set $sum (f32x4.add (f32x4.add (local.get $sum) (local.get $sum2)) (f32x4.add (local.get $sum3) (local.get $sum4))))
        (f32.store (local.get $output)
          (f32.add
            (f32.add (f32x4.extract_lane 0 (local.get $sum)) (f32x4.extract_lane 1 (local.get $sum)))
            (f32.add (f32x4.extract_lane 2 (local.get $sum)) (f32x4.extract_lane 3 (local.get $sum)))))
        (local.set $output (i32.add (local.get $output) (i32.const 4)))
        (local.set $whole (i32.add (local.get $whole) (local.get $stepWhole)))
        (local.set $phase (i32.add (local.get $phase) (local.get $stepPhase)))
        (if (i32.ge_u (local.get $phase) (local.get $up))
          (then
            (local.set $phase (i32.sub (local.get $phase) (local.get $up)))
            (local.set $whole (i32.add (local.get $whole) (i32.const 1)))))
        (br $outputs))))

  (func (export "convolvePair")
    (param $input i32)      ;; as above, of the first channel
    (param $inputGap i32)   ;; bytes from the first channel's input to the second's
    (param $output i32)
    (param $outputGap i32)  ;; bytes from the first channel's output to the second's
    (param $count i32) (param $phases i32) (param $taps i32) (param $up i32) (param $whole i32) (param $phase i32) (param $stepWhole i32) (param $stepPhase i32)
    (local $end i32) (local $x i32) (local $y i32) (local $t i32) (local $stop i32)
    (local $sum v128) (local $sum2 v128) (local $sum3 v128) (local $sum4 v128) (local $a v128) (local $b v128)
    (local.set $end (i32.add (local.get $output) (i32.shl (local.get $count) (i32.const 2))))
    (block $done
      (loop $outputs
        (br_if $done (i32.ge_u (local.get $output) (local.get $end)))
        (local.set $x (i32.add (local.get $input) (i32.shl (local.get $whole) (i32.const 2))))
        (local.set $y (i32.add (local.get $x) (local.get $inputGap)))
        (local.set $t (i32.add (local.get $phases) (i32.shl (i32.mul (local.get $phase) (local.get $taps)) (i32.const 2))))
        (local.set $stop (i32.add (local.get $t) (i32.shl (local.get $taps) (i32.const 2))))
        (local.set $sum (v128.const f32x4 0 0 0 0))
        (local.set $sum2 (v128.const f32x4 0 0 0 0))
        (local.set $sum3 (v128.const f32x4 0 0 0 0))
        (local.set $sum4 (v128.const f32x4 0 0 0 0))
        (loop $dot
          (local.set $a (v128.load align=4 (local.get $t)))
          (local.set $b (v128.load offset=16 align=4 (local.get $t)))
          (local.set $sum (f32x4.add (local.get $sum) (f32x4.mul (v128.load align=4 (local.get $x)) (local.get $a))))
          (local.set $sum3 (f32x4.add (local.get $sum3) (f32x4.mul (v128.load align=4 (local.get $y)) (local.get $a))))
          (local.set $sum2 (f32x4.add (local.get $sum2) (f32x4.mul (v128.load offset=16 align=4 (local.get $x)) (local.get $b))))
          (local.set $sum4 (f32x4.add (local.get $sum4) (f32x4.mul (v128.load offset=16 align=4 (local.get $y)) (local.get $b))))
          (local.set $a (v128.load offset=32 align=4 (local.get $t)))
          (local.set $b (v128.load offset=48 align=4 (local.get $t)))
          (local.set $sum (f32x4.add (local.get $sum) (f32x4.mul (v128.load offset=32 align=4 (local.get $x)) (local.get $a))))
          (local.set $sum3 (f32x4.add (local.get $sum3) (f32x4.mul (v128.load offset=32 align=4 (local.get $y)) (local.get $a))))
          (local.set $sum2 (f32x4.add (local.get $sum2) (f32x4.mul (v128.load offset=48 align=4 (local.get $x)) (local.get $b))))
          (local.set $sum4 (f32x4.add (local.get $sum4) (f32x4.mul (v128.load offset=48 align=4 (local.get $y)) (local.get $b))))
          (local.set $x (i32.add (local.get $x) (i32.const 64)))
          (local.set $y (i32.add (local.get $y) (i32.const 64)))
          (local.set $t (i32.add (local.get $t) (i32.const 64)))
          (br_if $dot (i32.lt_u (local.get $t) (local.get $stop))))
        (local.set $a (f32x4.add (local.get $sum) (local.get $sum2)))
        (local.set $b (f32x4.add (local.get $sum3) (local.get $sum4)))
        ;; a0+a2, b0+b2, a1+a3, b1+b3; then each half on the other.
        (local.set $a (f32x4.add
          (i8x16.shuffle 0 1 2 3 16 17 18 19 4 5 6 7 20 21 22 23 (local.get $a) (local.get $b))
          (i8x16.shuffle 8 9 10 11 24 25 26 27 12 13 14 15 28 29 30 31 (local.get $a) (local.get $b))))
        (local.set $a (f32x4.add (local.get $a) (i8x16.shuffle 8 9 10 11 12 13 14 15 0 1 2 3 4 5 6 7 (local.get $a) (local.get $a))))
        (v128.store32_lane 0 (local.get $output) (local.get $a))
        (v128.store32_lane 1 (i32.add (local.get $output) (local.get $outputGap)) (local.get $a))
        (local.set $output (i32.add (local.get $output) (i32.const 4)))
        (local.set $whole (i32.add (local.get $whole) (local.get $stepWhole)))
        (local.set $phase (i32.add (local.get $phase) (local.get $stepPhase)))
        (if (i32.ge_u (local.get $phase) (local.get $up))
          (then
            (local.set $phase (i32.sub (local.get $phase) (local.get $up)))
            (local.set $whole (i32.add (local.get $whole) (i32.const 1)))))
        (br $outputs)))))
