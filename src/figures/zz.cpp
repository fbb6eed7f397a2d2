namespace vyard {}
