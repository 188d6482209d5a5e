namespace WarySentinel.Service;

/// <summary>The folder of the database and the key: only the service's own user reads what is in it.</summary>
public static class DataFolder
{
    /// <summary>Read, written and entered by its owner alone.</summary>
    public const UnixFileMode Private = UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute;

    /// <summary>Read and written by its owner alone.</summary>
    public const UnixFileMode OwnFile = UnixFileMode.UserRead | UnixFileMode.UserWrite;

    private static readonly string[] Ours = ["sentinel.db", "sentinel.db-wal", "sentinel.db-shm", "sentinel.db.upgrading", "secret.key"];

    /// <summary>Makes the folder, and takes what is in it already from everybody else, whoever made it.</summary>
    public static void Guard(ServiceOptions options)
    {
        Directory.CreateDirectory(options.Data, Private);
        if (options.Provider == "sqlite" && options.Connection.Length == 0 && !File.Exists(Path.Combine(options.Data, Ours[0])))
        {
            // SQLite gives its side files the mode of the database.
            using var made = new FileStream(Path.Combine(options.Data, Ours[0]), new FileStreamOptions
            { Mode = FileMode.OpenOrCreate, Access = FileAccess.Write, UnixCreateMode = OwnFile });
        }

        var files = Ours.Select(name => Path.Combine(options.Data, name)).Where(File.Exists)
            .Concat(Inside(options, "walks")).Concat(Inside(options, "spool"));
        foreach (var file in files)
        {
            File.SetUnixFileMode(file, OwnFile);
        }

        foreach (var inner in new[] { "walks", "spool" }.Select(name => Path.Combine(options.Data, name)).Where(Directory.Exists))
        {
            File.SetUnixFileMode(inner, Private);
        }
    }

    private static string[] Inside(ServiceOptions options, string folder) =>
        Path.Combine(options.Data, folder) is var path && Directory.Exists(path) ? Directory.GetFiles(path) : [];
}
