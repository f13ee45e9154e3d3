/** All worklets in one module, so that they share the core's code. */
import './mix-processor'
import './capture-processor'
import './singer-processor'
