"""The certificate of a calibration as a PDF, kept as the certificate's own file."""
