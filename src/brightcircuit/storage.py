"""Static files with content hashes, module imports included."""

from whitenoise.storage import CompressedManifestStaticFilesStorage  # type: ignore[import-untyped]


class ModuleStorage(CompressedManifestStaticFilesStorage):  # type: ignore[misc]
    """Hashes file names, also those that JavaScript modules import."""

    support_js_module_import_aggregation = True
