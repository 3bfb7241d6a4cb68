"""Static files with content hashes, module imports included."""

from whitenoise.storage import CompressedManifestStaticFilesStorage


class ModuleStorage(CompressedManifestStaticFilesStorage):
    """Hashes file names, also those that JavaScript modules import."""

    support_js_module_import_aggregation = True
