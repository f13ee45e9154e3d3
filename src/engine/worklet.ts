/** All worklets in one module, so that they share the core's code and the simulated interface. */
import '../core/without-eval'
import './mix-processor'
import './capture-processor'
import './interface-processor'
import './monitor-processor'
import './output-processor'
