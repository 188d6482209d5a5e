using WarySentinel.Core;

namespace WarySentinel.Service.Gateway;

/// <summary>
/// Addresses at which files stand rather than pages, by what came from there last: of those, pieces and “unchanged since” can be asked for.
/// </summary>
internal sealed class KnownKinds
{
    private const int Most = 20_000;
    private readonly Recent<bool> files = new(Most);

    /// <summary>Whether a file came from there last.</summary>
    public bool IsFile(string path) => files.TryGet(path, out var isFile) && isFile;

    /// <summary>Notes what came.</summary>
    public void Note(string path, int status, bool isPage)
    {
        if (status is 200 or 206 && IsFile(path) == isPage)
        {
            files.Keep(path, !isPage);
        }
    }
}
