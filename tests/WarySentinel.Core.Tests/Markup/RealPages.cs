using System.Diagnostics;

namespace WarySentinel.Core.Tests.Markup;

/// <summary>Sites that nobody here wrote: documentation from Debian's packages, made by generators of many kinds.</summary>
internal static class RealPages
{
    private static readonly Lazy<IReadOnlyList<string>> Found = new(Fetch);

    /// <summary>Patterns of package names, each of another generator: Sphinx, DocBook, AsciiDoc, a wiki of its own, Docutils.</summary>
    private static readonly string[] Packages = ["^python3\\.[0-9]+-doc$", "^postgresql-doc-[0-9]+$", "^git-doc$", "^sqlite3-doc$", "^docutils-doc$"];

    /// <summary>Where the packages are unpacked.</summary>
    public static string Folder { get; } = Path.Combine(Path.GetTempPath(), "wary-real-pages", "unpacked");

    /// <summary>The pages, in the order of their paths.</summary>
    public static IReadOnlyList<string> All => Found.Value;

    /// <summary>The search index of one of the sites, as its generator wrote it.</summary>
    public static string SearchIndex => Directory.EnumerateFiles(
        Path.GetDirectoryName(All.First(p => p.Contains("/python3", StringComparison.Ordinal) && p.EndsWith("/html/about.html", StringComparison.Ordinal)))!,
        "searchindex.js").Single();

    private static IReadOnlyList<string> Fetch()
    {
        var folder = Path.GetDirectoryName(Folder)!;
        var done = Path.Combine(folder, "all-of-them");
        if (!File.Exists(done))
        {
            Directory.CreateDirectory(folder);
            // A package may ask for its directory under /usr to be there; here it is unpacked, and nothing of it runs.
            Run(folder, $$"""
                set -e
                for pattern in {{string.Join(' ', Packages.Select(p => $"'{p}'"))}}; do
                  name=$(apt-cache pkgnames | grep -E "$pattern" | sort -V | tail -1)
                  [ -n "$name" ] || { apt-get update -qq; name=$(apt-cache pkgnames | grep -E "$pattern" | sort -V | tail -1); }
                  apt-get download -qq "$name"
                  dpkg -x "$name"_*.deb unpacked
                done
                touch all-of-them
                """);
        }

        return [.. Directory.EnumerateFiles(Folder, "*.html", SearchOption.AllDirectories).Order(StringComparer.Ordinal)];
    }

    private static void Run(string folder, string script)
    {
        using var shell = Process.Start(new ProcessStartInfo("bash", ["-c", script]) { WorkingDirectory = folder, RedirectStandardError = true })!;
        var said = shell.StandardError.ReadToEnd();
        shell.WaitForExit();
        if (shell.ExitCode != 0)
        {
            throw new InvalidOperationException("The pages could not be fetched: " + said);
        }
    }
}
