using WarySentinel.Core.Files;

namespace WarySentinel.Service.Files;

/// <summary>What stands in a folder.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Bytes">How large it is; null for a folder.</param>
/// <param name="At">When it was last written.</param>
public sealed record AreaEntry(string Name, long? Bytes, DateTimeOffset At);

/// <summary>
/// The folders of areas on this machine's disk. Nothing is found through a symbolic link, beneath a name that begins with a dot, or above the folder.
/// </summary>
public sealed class AreaFolder(ServiceOptions options)
{
    /// <summary>Most entries that are listed.</summary>
    public const int Most = 5000;

    /// <summary>The folder of an area, whether it is there or not.</summary>
    public string PathOf(Area area) => Path.Combine(Root, Path.Combine(area.Folder.Split('/')));

    /// <summary>The file or folder at a way inside an area; null where nothing is there that may be had.</summary>
    public FileSystemInfo? Find(Area area, string path)
    {
        if (!AreaPath.TryRead(path, out var parts))
        {
            return null;
        }

        try
        {
            var at = new DirectoryInfo(PathOf(area));
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

    /// <summary>How many files an area has, and how large they are together; null where its folder is not there.</summary>
    public (int Files, long Bytes)? Tally(Area area)
    {
        try
        {
            var folder = new DirectoryInfo(PathOf(area));
            var all = folder.EnumerateFiles("*", new EnumerationOptions
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

    /// <summary>Puts a file at a way inside an area, whole or not at all, in place of one of that name; false where no file can stand there.</summary>
    public async Task<bool> PutAsync(Area area, string path, Stream content, CancellationToken stop)
    {
        if (!AreaPath.TryRead(path, out var parts) || parts.Length == 0 || Find(area, path) is DirectoryInfo)
        {
            return false;
        }

        var folder = PathOf(area);
        foreach (var part in parts.SkipLast(1))
        {
            Directory.CreateDirectory(folder, DataFolder.Private);
            folder = Path.Combine(folder, part);
            if (new DirectoryInfo(folder).LinkTarget is not null || File.Exists(folder))
            {
                return false;
            }
        }

        Directory.CreateDirectory(folder, DataFolder.Private);
        var fresh = Path.Combine(folder, $".{Guid.NewGuid():N}");
        try
        {
            await using (var file = new FileStream(fresh, new FileStreamOptions
            { Mode = FileMode.CreateNew, Access = FileAccess.Write, Options = FileOptions.Asynchronous, UnixCreateMode = DataFolder.OwnFile }))
            {
                await content.CopyToAsync(file, stop);
            }

            File.Move(fresh, Path.Combine(folder, parts[^1]), true);
            return true;
        }
        finally
        {
            File.Delete(fresh);
        }
    }

    /// <summary>Removes a file; false where there is none.</summary>
    public bool Remove(Area area, string path)
    {
        if (Find(area, path) is not FileInfo file)
        {
            return false;
        }

        file.Delete();
        return true;
    }

    private string Root => options.Files.Length > 0 ? options.Files : Path.Combine(options.Data, "files");
}
