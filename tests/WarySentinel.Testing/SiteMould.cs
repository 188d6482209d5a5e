namespace WarySentinel.Testing;

/// <summary>
/// The data of a site as it is after its start, made once in a process and copied for each site that begins with it: hundreds begin alike, and each
/// would build its tables, hash its passwords and import its catalogue again.
/// </summary>
internal sealed class SiteMould(bool empty)
{
    private static readonly TimeSpan ClocksApart = TimeSpan.FromHours(1);
    private static readonly string[] Elsewhere = ["Database", "Connection", "Secret", "Data"];

    private readonly string folder = Directory.CreateTempSubdirectory("wary-mould-").FullName;
    private readonly Lock making = new();
    private Task<string>? token;

    /// <summary>Of a site that nobody has set up.</summary>
    public static SiteMould Empty { get; } = new(true);

    /// <summary>Of the site with the demo catalogue and a few members.</summary>
    public static SiteMould Seeded { get; } = new(false);

    /// <summary>Whether a site with those settings may begin with a copy: it has its data where it is looked for, and lives about now.</summary>
    public static bool Fits(string[] settings, TimeProvider? time) =>
        !settings.Any(s => Elsewhere.Any(name => s.StartsWith($"--Wary:{name}=", StringComparison.OrdinalIgnoreCase)))
        && (time is null || (time.GetUtcNow() - DateTimeOffset.UtcNow).Duration() < ClocksApart);

    /// <summary>Puts a copy into a folder, and gives the token of its owner; none where nobody set it up.</summary>
    public async Task<string> FillAsync(string data)
    {
        Task<string> made;
        lock (making)
        {
            if (token is null)
            {
                AppDomain.CurrentDomain.ProcessExit += (_, _) => Directory.Delete(folder, true);
                token = Task.Run(() => RunningSite.MakeAsync(empty, folder));
            }

            made = token;
        }

        var known = await made;
        Copy(folder, data);
        return known;
    }

    /// <summary>Copies a folder with all that is in it.</summary>
    public static void Copy(string from, string to)
    {
        Directory.CreateDirectory(to, UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute);
        foreach (var inner in Directory.GetDirectories(from))
        {
            Copy(inner, Path.Combine(to, Path.GetFileName(inner)));
        }

        foreach (var file in Directory.GetFiles(from))
        {
            File.Copy(file, Path.Combine(to, Path.GetFileName(file)));
        }
    }
}
