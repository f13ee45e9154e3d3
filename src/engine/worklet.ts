/** All worklets in one module, so that they share the core's code and the simulated interface. */
import './mix-processor'
import './capture-processor'
import './interface-processor'
import './monitor-processor'
import './output-processor'
