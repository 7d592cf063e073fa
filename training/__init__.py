"""Training of the voice model of the noise reduction. Never needed to run the product.

Every part is one command, in this order (see ``README.md``)::

    python -m training.material     # packages from the registries -> unpacked folders
    python -m training.clips        # recorded clips -> voices, room spectra, events
    python -m training.spoken 60    # minutes of synthetic voices
    python -m training.chunks speech 1024
    python -m training.chunks noise 1024
    python -m training.train        # goes on where it stopped
"""
