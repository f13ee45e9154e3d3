;; The inner loops of saturation: half-band filters that double and halve a rate, the curve, and the shuffling of even and odd samples.
;; Eight samples at a time: counts are rounded up, so what lies behind an array's end is overwritten. Addresses in bytes, counts in floats.
;; Assembled into saturate-wasm.ts by `node scripts/assemble.mjs`.
(module
  (memory (export "memory") 1)

  ;; output[i] = share other[i] + the sum over j of taps[j] (input[i - j] + input[i - span + j])
  (func (export "filter")
    (param $input i32) (param $output i32) (param $count i32)
    (param $taps i32)   ;; one half of a symmetric filter, from its end to its middle
    (param $pairs i32)  ;; how many
    (param $span i32)   ;; floats from the filter's first tap to its last
    (param $other i32) (param $share f32)
    (local $end i32) (local $a i32) (local $b i32) (local $t i32) (local $stop i32) (local $sum v128) (local $sum2 v128) (local $tap v128) (local $gain v128)
    (local.set $end (i32.add (local.get $output) (i32.shl (local.get $count) (i32.const 2))))
    (local.set $stop (i32.add (local.get $taps) (i32.shl (local.get $pairs) (i32.const 2))))
    (local.set $span (i32.shl (local.get $span) (i32.const 2)))
    (local.set $gain (f32x4.splat (local.get $share)))
    (block $done
      (loop $outputs
        (br_if $done (i32.ge_u (local.get $output) (local.get $end)))
        (local.set $a (local.get $input))
        (local.set $b (i32.sub (local.get $input) (local.get $span)))
        (local.set $t (local.get $taps))
        (local.set $sum (f32x4.mul (local.get $gain) (v128.load align=4 (local.get $other))))
        (local.set $sum2 (f32x4.mul (local.get $gain) (v128.load offset=16 align=4 (local.get $other))))
        (loop $pair
          (local.set $tap (v128.load32_splat (local.get $t)))
          (local.set $sum (f32x4.add (local.get $sum) (f32x4.mul (local.get $tap)
            (f32x4.add (v128.load align=4 (local.get $a)) (v128.load align=4 (local.get $b))))))
          (local.set $sum2 (f32x4.add (local.get $sum2) (f32x4.mul (local.get $tap)
            (f32x4.add (v128.load offset=16 align=4 (local.get $a)) (v128.load offset=16 align=4 (local.get $b))))))
          (local.set $a (i32.sub (local.get $a) (i32.const 4)))
          (local.set $b (i32.add (local.get $b) (i32.const 4)))
          (local.set $t (i32.add (local.get $t) (i32.const 4)))
          (br_if $pair (i32.lt_u (local.get $t) (local.get $stop))))
        (v128.store align=4 (local.get $output) (local.get $sum))
        (v128.store offset=16 align=4 (local.get $output) (local.get $sum2))
        (local.set $input (i32.add (local.get $input) (i32.const 32)))
        (local.set $other (i32.add (local.get $other) (i32.const 32)))
        (local.set $output (i32.add (local.get $output) (i32.const 32)))
        (br $outputs))))

  ;; factor = tanh(d) / d, output = factor input, with d = (drive + i step) input. By Lambert's fraction to the seventh order, which meets 1 / |d| at 4.97.
  (func (export "bend")
    (param $input i32) (param $output i32) (param $factors i32) (param $count i32) (param $drive f32) (param $step f32)
    (local $end i32) (local $x v128) (local $d v128) (local $q v128) (local $f v128) (local $drives v128) (local $more v128)
    (local.set $end (i32.add (local.get $output) (i32.shl (local.get $count) (i32.const 2))))
    (local.set $drives (f32x4.add (f32x4.splat (local.get $drive)) (f32x4.mul (f32x4.splat (local.get $step)) (v128.const f32x4 0 1 2 3))))
    (local.set $more (f32x4.splat (f32.mul (local.get $step) (f32.const 4))))
    (block $done
      (loop $samples
        (br_if $done (i32.ge_u (local.get $output) (local.get $end)))
        (local.set $x (v128.load align=4 (local.get $input)))
        (local.set $d (f32x4.mul (local.get $x) (local.get $drives)))
        (local.set $q (f32x4.mul (local.get $d) (local.get $d)))
        (local.set $f (f32x4.div
          (f32x4.add (v128.const f32x4 135135 135135 135135 135135) (f32x4.mul (local.get $q)
            (f32x4.add (v128.const f32x4 17325 17325 17325 17325) (f32x4.mul (local.get $q)
              (f32x4.add (v128.const f32x4 378 378 378 378) (local.get $q))))))
          (f32x4.add (v128.const f32x4 135135 135135 135135 135135) (f32x4.mul (local.get $q)
            (f32x4.add (v128.const f32x4 62370 62370 62370 62370) (f32x4.mul (local.get $q)
              (f32x4.add (v128.const f32x4 3150 3150 3150 3150) (f32x4.mul (local.get $q) (v128.const f32x4 28 28 28 28)))))))))
        (local.set $f (f32x4.pmin (local.get $f) (f32x4.div (v128.const f32x4 1 1 1 1) (f32x4.abs (local.get $d)))))
        (v128.store align=4 (local.get $factors) (local.get $f))
        (v128.store align=4 (local.get $output) (f32x4.mul (local.get $f) (local.get $x)))
        (local.set $drives (f32x4.add (local.get $drives) (local.get $more)))
        (local.set $input (i32.add (local.get $input) (i32.const 16)))
        (local.set $output (i32.add (local.get $output) (i32.const 16)))
        (local.set $factors (i32.add (local.get $factors) (i32.const 16)))
        (br $samples))))

  ;; output = factor input
  (func (export "multiply") (param $input i32) (param $output i32) (param $factors i32) (param $count i32) (local $end i32)
    (local.set $end (i32.add (local.get $output) (i32.shl (local.get $count) (i32.const 2))))
    (block $done
      (loop $samples
        (br_if $done (i32.ge_u (local.get $output) (local.get $end)))
        (v128.store align=4 (local.get $output) (f32x4.mul (v128.load align=4 (local.get $input)) (v128.load align=4 (local.get $factors))))
        (local.set $input (i32.add (local.get $input) (i32.const 16)))
        (local.set $output (i32.add (local.get $output) (i32.const 16)))
        (local.set $factors (i32.add (local.get $factors) (i32.const 16)))
        (br $samples))))

  ;; Of `count` even and as many odd samples, the row of both.
  (func (export "interleave") (param $even i32) (param $odd i32) (param $output i32) (param $count i32) (local $end i32) (local $e v128) (local $o v128)
    (local.set $end (i32.add (local.get $even) (i32.shl (local.get $count) (i32.const 2))))
    (block $done
      (loop $samples
        (br_if $done (i32.ge_u (local.get $even) (local.get $end)))
        (local.set $e (v128.load align=4 (local.get $even)))
        (local.set $o (v128.load align=4 (local.get $odd)))
        (v128.store align=4 (local.get $output) (i8x16.shuffle 0 1 2 3 16 17 18 19 4 5 6 7 20 21 22 23 (local.get $e) (local.get $o)))
        (v128.store offset=16 align=4 (local.get $output) (i8x16.shuffle 8 9 10 11 24 25 26 27 12 13 14 15 28 29 30 31 (local.get $e) (local.get $o)))
        (local.set $even (i32.add (local.get $even) (i32.const 16)))
        (local.set $odd (i32.add (local.get $odd) (i32.const 16)))
        (local.set $output (i32.add (local.get $output) (i32.const 32)))
        (br $samples))))

  ;; The way back.
  (func (export "part") (param $input i32) (param $even i32) (param $odd i32) (param $count i32) (local $end i32) (local $a v128) (local $b v128)
    (local.set $end (i32.add (local.get $even) (i32.shl (local.get $count) (i32.const 2))))
    (block $done
      (loop $samples
        (br_if $done (i32.ge_u (local.get $even) (local.get $end)))
        (local.set $a (v128.load align=4 (local.get $input)))
        (local.set $b (v128.load offset=16 align=4 (local.get $input)))
        (v128.store align=4 (local.get $even) (i8x16.shuffle 0 1 2 3 8 9 10 11 16 17 18 19 24 25 26 27 (local.get $a) (local.get $b)))
        (v128.store align=4 (local.get $odd) (i8x16.shuffle 4 5 6 7 12 13 14 15 20 21 22 23 28 29 30 31 (local.get $a) (local.get $b)))
        (local.set $input (i32.add (local.get $input) (i32.const 32)))
        (local.set $even (i32.add (local.get $even) (i32.const 16)))
        (local.set $odd (i32.add (local.get $odd) (i32.const 16)))
        (br $samples))))

  ;; What lies `count` floats after `to` goes there, `kept` floats of it.
  (func (export "shift") (param $to i32) (param $kept i32) (param $count i32)
    (memory.copy (local.get $to) (i32.add (local.get $to) (i32.shl (local.get $count) (i32.const 2))) (i32.shl (local.get $kept) (i32.const 2)))))
