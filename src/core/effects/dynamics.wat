;; What a compressor, a gate and a lowered band compute of each frame: its level, how far it is to be turned down, and the factor that does so.
;; Levels and factors four frames at a time, what hangs on the frame before one by one. Counts are in frames, and rounded up to four.
;; Assembled into dynamics-wasm.ts by `node scripts/assemble.mjs`.
(module
  (memory (export "memory") 1)
  ;; In bytes:    0 left   512 right   1024 the band's left   1536 its right   2048 decibels   2560 factors   3072 state: two numbers of eight bytes

  ;; decibels[i] = how far a frame is to be turned down: nothing up to `lower`, then in a knee, then `slope` decibels a decibel, `most` at most.
  ;; The level is the larger of two channels. Its logarithm: 20 lg m = 40 / ln 10 artanh((m - 1) / (m + 1)), m within half an octave round 1.
  (func $wanted (param $left i32) (param $right i32) (param $count i32) (param $lower f32) (param $knee f32) (param $slope f32) (param $most f32)
    (local $at i32) (local $end i32) (local $x v128) (local $e v128) (local $s v128) (local $q v128) (local $over v128) (local $kneePart v128) (local $half f32)
    (local.set $end (i32.shl (local.get $count) (i32.const 2)))
    ;; Over a knee of width k: over^2 / 2k.
    (local.set $half (f32.div (f32.const 0.5) (f32.max (local.get $knee) (f32.const 1e-6))))
    (block $done
      (loop $frames
        (br_if $done (i32.ge_u (local.get $at) (local.get $end)))
        (local.set $x (f32x4.max (v128.const f32x4 1e-10 1e-10 1e-10 1e-10) (f32x4.max
          (f32x4.abs (v128.load (i32.add (local.get $left) (local.get $at))))
          (f32x4.abs (v128.load (i32.add (local.get $right) (local.get $at)))))))
        (local.set $e (i32x4.shr_s (i32x4.sub (local.get $x) (v128.const i32x4 0x3f3504f3 0x3f3504f3 0x3f3504f3 0x3f3504f3)) (i32.const 23)))
        (local.set $x (i32x4.sub (local.get $x) (i32x4.shl (local.get $e) (i32.const 23))))
        (local.set $s (f32x4.div
          (f32x4.sub (local.get $x) (v128.const f32x4 1 1 1 1))
          (f32x4.add (local.get $x) (v128.const f32x4 1 1 1 1))))
        (local.set $q (f32x4.mul (local.get $s) (local.get $s)))
        (local.set $over (f32x4.sub
          (f32x4.add
            (f32x4.mul (f32x4.convert_i32x4_s (local.get $e)) (v128.const f32x4 6.0205999 6.0205999 6.0205999 6.0205999))
            (f32x4.mul (local.get $s)
              (f32x4.add (v128.const f32x4 17.371779 17.371779 17.371779 17.371779) (f32x4.mul (local.get $q)
                (f32x4.add (v128.const f32x4 5.7905931 5.7905931 5.7905931 5.7905931) (f32x4.mul (local.get $q)
                  (f32x4.add (v128.const f32x4 3.4743559 3.4743559 3.4743559 3.4743559) (f32x4.mul (local.get $q)
                    (v128.const f32x4 2.4816828 2.4816828 2.4816828 2.4816828)))))))))
          (f32x4.splat (local.get $lower))))
        (local.set $over (f32x4.max (local.get $over) (v128.const f32x4 0 0 0 0)))
        (local.set $kneePart (f32x4.min (local.get $over) (f32x4.splat (local.get $knee))))
        (v128.store offset=2048 (local.get $at) (f32x4.min (f32x4.splat (local.get $most)) (f32x4.mul (f32x4.splat (local.get $slope)) (f32x4.add
          (f32x4.mul (f32x4.splat (local.get $half)) (f32x4.mul (local.get $kneePart) (local.get $kneePart)))
          (f32x4.sub (local.get $over) (local.get $kneePart))))))
        (local.set $at (i32.add (local.get $at) (i32.const 16)))
        (br $frames))))

  ;; decibels: held at peaks and let go with one pole, then smoothed with another. Both from the state, and back into it.
  (func $smooth (param $count i32) (param $attack f64) (param $release f64)
    (local $at i32) (local $end i32) (local $held f64) (local $smoothed f64) (local $wanted f64) (local $onAttack f64) (local $onRelease f64)
    (local.set $end (i32.shl (local.get $count) (i32.const 2)))
    (local.set $held (f64.load offset=3072 (i32.const 0)))
    (local.set $smoothed (f64.load offset=3080 (i32.const 0)))
    (local.set $onAttack (f64.sub (f64.const 1) (local.get $attack)))
    (local.set $onRelease (f64.sub (f64.const 1) (local.get $release)))
    (block $done
      (loop $frames
        (br_if $done (i32.ge_u (local.get $at) (local.get $end)))
        (local.set $wanted (f64.promote_f32 (f32.load offset=2048 (local.get $at))))
        (local.set $held (f64.max (local.get $wanted)
          (f64.add (f64.mul (local.get $release) (local.get $held)) (f64.mul (local.get $onRelease) (local.get $wanted)))))
        (local.set $smoothed (f64.add (f64.mul (local.get $attack) (local.get $smoothed)) (f64.mul (local.get $onAttack) (local.get $held))))
        (f32.store offset=2048 (local.get $at) (f32.demote_f64 (local.get $smoothed)))
        (local.set $at (i32.add (local.get $at) (i32.const 4)))
        (br $frames)))
    ;; Below that there are only slow denormal numbers.
    (f64.store offset=3072 (i32.const 0) (select (f64.const 0) (local.get $held) (f64.lt (local.get $held) (f64.const 1e-9))))
    (f64.store offset=3080 (i32.const 0) (select (f64.const 0) (local.get $smoothed) (f64.lt (local.get $smoothed) (f64.const 1e-9)))))

  ;; factors[i] = 10 ^ ((raise + i step - decibels[i]) / 20), as a power of two: its whole part by the exponent, the rest by its series.
  (func $factors (param $count i32) (param $raise f32) (param $step f32)
    (local $at i32) (local $end i32) (local $y v128) (local $whole v128) (local $raises v128) (local $more v128)
    (local.set $end (i32.shl (local.get $count) (i32.const 2)))
    (local.set $raises (f32x4.add (f32x4.splat (local.get $raise)) (f32x4.mul (f32x4.splat (local.get $step)) (v128.const f32x4 0 1 2 3))))
    (local.set $more (f32x4.splat (f32.mul (local.get $step) (f32.const 4))))
    (block $done
      (loop $frames
        (br_if $done (i32.ge_u (local.get $at) (local.get $end)))
        (local.set $y (f32x4.max (v128.const f32x4 -120 -120 -120 -120) (f32x4.mul
          (f32x4.sub (local.get $raises) (v128.load offset=2048 (local.get $at)))
          (v128.const f32x4 0.16609640 0.16609640 0.16609640 0.16609640))))
        (local.set $whole (f32x4.nearest (local.get $y)))
        (local.set $y (f32x4.sub (local.get $y) (local.get $whole)))
        (v128.store offset=2560 (local.get $at) (f32x4.mul
          (i32x4.shl (i32x4.add (i32x4.trunc_sat_f32x4_s (local.get $whole)) (v128.const i32x4 127 127 127 127)) (i32.const 23))
          (f32x4.add (v128.const f32x4 1 1 1 1) (f32x4.mul (local.get $y)
            (f32x4.add (v128.const f32x4 0.69314718 0.69314718 0.69314718 0.69314718) (f32x4.mul (local.get $y)
              (f32x4.add (v128.const f32x4 0.24022651 0.24022651 0.24022651 0.24022651) (f32x4.mul (local.get $y)
                (f32x4.add (v128.const f32x4 0.055504109 0.055504109 0.055504109 0.055504109) (f32x4.mul (local.get $y)
                  (f32x4.add (v128.const f32x4 0.0096181291 0.0096181291 0.0096181291 0.0096181291) (f32x4.mul (local.get $y)
                    (f32x4.add (v128.const f32x4 0.0013333558 0.0013333558 0.0013333558 0.0013333558) (f32x4.mul (local.get $y)
                      (v128.const f32x4 0.00015403530 0.00015403530 0.00015403530 0.00015403530)))))))))))))))
        (local.set $raises (f32x4.add (local.get $raises) (local.get $more)))
        (local.set $at (i32.add (local.get $at) (i32.const 16)))
        (br $frames))))

  ;; Multiplies left, and right where there is one, by 1 + mix (factor - 1), which takes the factor's place; mix goes on by `step` a frame.
  (func $apply (param $pair i32) (param $count i32) (param $mix f32) (param $step f32)
    (local $at i32) (local $end i32) (local $f v128) (local $mixes v128) (local $more v128)
    (local.set $end (i32.shl (local.get $count) (i32.const 2)))
    (local.set $mixes (f32x4.add (f32x4.splat (local.get $mix)) (f32x4.mul (f32x4.splat (local.get $step)) (v128.const f32x4 0 1 2 3))))
    (local.set $more (f32x4.splat (f32.mul (local.get $step) (f32.const 4))))
    (block $done
      (loop $frames
        (br_if $done (i32.ge_u (local.get $at) (local.get $end)))
        (local.set $f (f32x4.add (v128.const f32x4 1 1 1 1) (f32x4.mul (local.get $mixes)
          (f32x4.sub (v128.load offset=2560 (local.get $at)) (v128.const f32x4 1 1 1 1)))))
        (v128.store offset=2560 (local.get $at) (local.get $f))
        (v128.store (local.get $at) (f32x4.mul (local.get $f) (v128.load (local.get $at))))
        (if (local.get $pair) (then (v128.store offset=512 (local.get $at) (f32x4.mul (local.get $f) (v128.load offset=512 (local.get $at))))))
        (local.set $mixes (f32x4.add (local.get $mixes) (local.get $more)))
        (local.set $at (i32.add (local.get $at) (i32.const 16)))
        (br $frames))))

  ;; @param pair 0 where there is one channel, in the left.
  (func (export "compress") (param $pair i32) (param $count i32)
    (param $lower f32) (param $knee f32) (param $slope f32) (param $attack f64) (param $release f64)
    (param $makeup f32) (param $makeupStep f32) (param $mix f32) (param $mixStep f32)
    (call $wanted (i32.const 0) (select (i32.const 512) (i32.const 0) (local.get $pair)) (local.get $count)
      (local.get $lower) (local.get $knee) (local.get $slope) (f32.const 1000))
    (call $smooth (local.get $count) (local.get $attack) (local.get $release))
    (call $factors (local.get $count) (local.get $makeup) (local.get $makeupStep))
    (call $apply (local.get $pair) (local.get $count) (local.get $mix) (local.get $mixStep)))

  ;; Takes the share 1 - factor of the band from the sound; the shares take the factors' place.
  (func (export "lower") (param $pair i32) (param $count i32) (param $threshold f32) (param $range f32) (param $attack f64) (param $release f64)
    (local $at i32) (local $end i32) (local $share v128)
    (call $wanted (i32.const 1024) (select (i32.const 1536) (i32.const 1024) (local.get $pair)) (local.get $count)
      (local.get $threshold) (f32.const 0) (f32.const 1) (local.get $range))
    (call $smooth (local.get $count) (local.get $attack) (local.get $release))
    (call $factors (local.get $count) (f32.const 0) (f32.const 0))
    (local.set $end (i32.shl (local.get $count) (i32.const 2)))
    (block $done
      (loop $frames
        (br_if $done (i32.ge_u (local.get $at) (local.get $end)))
        (local.set $share (f32x4.sub (v128.const f32x4 1 1 1 1) (v128.load offset=2560 (local.get $at))))
        (v128.store offset=2560 (local.get $at) (local.get $share))
        (v128.store (local.get $at) (f32x4.sub (v128.load (local.get $at)) (f32x4.mul (local.get $share) (v128.load offset=1024 (local.get $at)))))
        (if (local.get $pair) (then (v128.store offset=512 (local.get $at)
          (f32x4.sub (v128.load offset=512 (local.get $at)) (f32x4.mul (local.get $share) (v128.load offset=1536 (local.get $at)))))))
        (local.set $at (i32.add (local.get $at) (i32.const 16)))
        (br $frames))))

  ;; Open from a level of `opens` on until `hold` frames after the last one of `stays`; the state is how far it is closed, and the frames left.
  (func (export "gate") (param $pair i32) (param $count i32) (param $opens f32) (param $stays f32) (param $hold f64)
    (param $closed f64) (param $closedStep f64) (param $attack f64) (param $release f64)
    (local $at i32) (local $end i32) (local $level f32) (local $left f64) (local $reduction f64)
    (local.set $end (i32.shl (local.get $count) (i32.const 2)))
    (local.set $reduction (f64.load offset=3072 (i32.const 0)))
    (local.set $left (f64.load offset=3080 (i32.const 0)))
    (block $done
      (loop $frames
        (br_if $done (i32.ge_u (local.get $at) (local.get $end)))
        (local.set $level (f32.abs (f32.load (local.get $at))))
        (if (local.get $pair) (then (local.set $level (f32.max (local.get $level) (f32.abs (f32.load offset=512 (local.get $at)))))))
        (if (f32.ge (local.get $level) (select (local.get $stays) (local.get $opens) (f64.gt (local.get $left) (f64.const 0))))
          ;; One frame at least, by which it knows that it is open.
          (then (local.set $left (f64.add (local.get $hold) (f64.const 1))))
          (else (local.set $left (f64.max (f64.const 0) (f64.sub (local.get $left) (f64.const 1))))))
        (if (f64.gt (local.get $left) (f64.const 0))
          (then (local.set $reduction (f64.mul (local.get $attack) (local.get $reduction))))
          (else (local.set $reduction
            (f64.add (local.get $closed) (f64.mul (local.get $release) (f64.sub (local.get $reduction) (local.get $closed)))))))
        (f32.store offset=2048 (local.get $at) (f32.demote_f64 (local.get $reduction)))
        (local.set $closed (f64.add (local.get $closed) (local.get $closedStep)))
        (local.set $at (i32.add (local.get $at) (i32.const 4)))
        (br $frames)))
    (f64.store offset=3072 (i32.const 0) (select (f64.const 0) (local.get $reduction) (f64.lt (local.get $reduction) (f64.const 1e-9))))
    (f64.store offset=3080 (i32.const 0) (local.get $left))
    (call $factors (local.get $count) (f32.const 0) (f32.const 0))
    (call $apply (local.get $pair) (local.get $count) (f32.const 1) (f32.const 0))))
