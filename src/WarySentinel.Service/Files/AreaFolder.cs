using WarySentinel.Core.Files;

namespace WarySentinel.Service.Files;

/// <summary>What stands in a folder.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Bytes">How large it is; null for a folder.</param>
/// <param name="At">When it was last written.</param>
public sealed record AreaEntry(string Name, long? Bytes, DateTimeOffset At);

/// <summary>
/// The folders of areas and shows on this machine's disk. Nothing is found through a symbolic link, beneath a name that begins with a dot, or above the folder.
/// </summary>
public sealed class AreaFolder(ServiceOptions options)
{
    /// <summary>Most entries that are listed.</summary>
    public const int Most = 5000;

    /// <summary>Where a folder is, whether it is there or not.</summary>
    public string PathOf(string folder) => Path.Combine(Root, Path.Combine(folder.Split('/')));

    /// <summary>The file or folder at a way inside a folder; null where nothing is there that may be had.</summary>
    public FileSystemInfo? Find(string folder, string path)
    {
        if (!AreaPath.TryRead(path, out var parts))
        {
            return null;
        }

        try
        {
            var at = new DirectoryInfo(PathOf(folder));
            for (var n = 0; n < parts.Length; n++)
            {
                var (next, file) = (new DirectoryInfo(Path.Combine(at.FullName, parts[n])), new FileInfo(Path.Combine(at.FullName, parts[n])));
                if (file.Exists && n == parts.Length - 1 && at.Exists)
                {
                    return file.LinkTarget is null ? file : null;
                }

                if (!next.Exists || next.LinkTarget is not null)
                {
                    return null;
                }

                at = next;
            }

            return at.Exists ? at : null;
        }
        catch (Exception fault) when (fault is IOException or UnauthorizedAccessException)
        {
            return null;
        }
    }

    /// <summary>What stands in a folder, folders first, by name; and whether there is more than is listed.</summary>
    public static (IReadOnlyList<AreaEntry> Entries, bool More) List(DirectoryInfo folder)
    {
        try
        {
            var there = folder.EnumerateFileSystemInfos().Where(i => AreaPath.IsName(i.Name) && i.LinkTarget is null).Take(Most + 1).ToList();
            return (
                [
                    .. there.Take(Most).OrderBy(i => i is DirectoryInfo ? 0 : 1).ThenBy(i => i.Name, StringComparer.OrdinalIgnoreCase)
                        .Select(i => new AreaEntry(i.Name, i is FileInfo file ? file.Length : null, i.LastWriteTimeUtc)),
                ], there.Count > Most);
        }
        catch (Exception fault) when (fault is IOException or UnauthorizedAccessException)
        {
            // A file that goes while the folder is read.
            return ([], false);
        }
    }

    /// <summary>How many files a folder has, and how large they are together; null where its folder is not there.</summary>
    public (int Files, long Bytes)? Tally(string folder)
    {
        try
        {
            var all = new DirectoryInfo(PathOf(folder)).EnumerateFiles("*", new EnumerationOptions
            {
                RecurseSubdirectories = true, AttributesToSkip = FileAttributes.Hidden | FileAttributes.ReparsePoint, IgnoreInaccessible = true,
                MaxRecursionDepth = 20,
            }).Take(Most * 2).Select(f => f.Length).ToList();
            return (all.Count, all.Sum());
        }
        catch (IOException)
        {
            // Not there, or being changed as it is counted.
            return null;
        }
    }

    /// <summary>Puts a file at a way inside a folder, whole or not at all, in place of one of that name; false where no file can stand there.</summary>
    public async Task<bool> PutAsync(string folder, string path, Stream content, CancellationToken stop)
    {
        if (!AreaPath.TryRead(path, out var parts) || parts.Length == 0 || Find(folder, path) is DirectoryInfo)
        {
            return false;
        }

        var at = PathOf(folder);
        foreach (var part in parts.SkipLast(1))
        {
            Directory.CreateDirectory(at, DataFolder.Private);
            at = Path.Combine(at, part);
            if (new DirectoryInfo(at).LinkTarget is not null || File.Exists(at))
            {
                return false;
            }
        }

        Directory.CreateDirectory(at, DataFolder.Private);
        var fresh = Path.Combine(at, $".{Guid.NewGuid():N}");
        try
        {
            await using (var file = new FileStream(fresh, new FileStreamOptions
            { Mode = FileMode.CreateNew, Access = FileAccess.Write, Options = FileOptions.Asynchronous, UnixCreateMode = DataFolder.OwnFile }))
            {
                await content.CopyToAsync(file, stop);
            }

            File.Move(fresh, Path.Combine(at, parts[^1]), true);
            return true;
        }
        finally
        {
            File.Delete(fresh);
        }
    }

    /// <summary>Removes a file; false where there is none.</summary>
    public bool Remove(string folder, string path)
    {
        if (Find(folder, path) is not FileInfo file)
        {
            return false;
        }

        file.Delete();
        return true;
    }

    private string Root => options.Files.Length > 0 ? options.Files : Path.Combine(options.Data, "files");
}
