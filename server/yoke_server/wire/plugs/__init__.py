"""What the plugs say of the sensors in them: data sheets read and written, sensors moved."""
