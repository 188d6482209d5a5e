using System.CommandLine;
using System.Formats.Tar;
using System.IO.Compression;
using Spectre.Console;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.SetUp;

/// <summary><c>wary backup</c> and <c>wary restore</c>.</summary>
internal static class BackupVerbs
{
    private const string Database = "sentinel.db";
    private const string Key = "secret.key";

    /// <summary>The last of its files: what has it is whole.</summary>
    private const string End = "backup.json";
    private const UnixFileMode Own = UnixFileMode.UserRead | UnixFileMode.UserWrite;
    private const UnixFileMode OwnFolder = Own | UnixFileMode.UserExecute;
    private static readonly Argument<string> To = new("file") { Description = "The file to write, such as wary.tar.gz; - writes to standard output." };
    private static readonly Argument<string> From = new("file") { Description = "A file that wary backup wrote." };
    private static readonly Option<bool> Files = new("--files") { Description = "With the files of folders to download from." };
    private static readonly Option<string> Data = new("--data")
    { Description = "The data folder of a service that is not running: empty, or not there yet.", Required = true };

    public static IEnumerable<Command> Build()
    {
        yield return With(
            With(new Command(
                "backup", "Copy everything that is kept into one file, while the service runs. Whoever has that file has everything."), To), Files)
            .Does(BackupAsync);
        yield return With(
            With(new Command("restore", "Put a backup into an empty data folder, on this machine. Start the service on it then."), From), Data)
            .Does(RestoreAsync);
    }

    private static async Task<int> BackupAsync(Call call)
    {
        var file = call.Get(To);
        if (file == "-")
        {
            await using var output = Console.OpenStandardOutput();
            await call.Client.BackupAsync(output, call.Get(Files), call.Stop);
            return Exit.Done;
        }

        var whole = Path.GetFullPath(file);
        var part = whole + ".part";
        try
        {
            await using (var output = new FileStream(
                part, new FileStreamOptions { Mode = FileMode.Create, Access = FileAccess.ReadWrite, UnixCreateMode = Own }))
            {
                await call.Client.BackupAsync(output, call.Get(Files), call.Stop);
                output.Position = 0;
                // What cannot be read to its end is no backup: it takes the place of none.
                if (!(await NamesAsync(output, call.Stop)).Contains(End))
                {
                    return call.Out.Fail(Exit.Unreachable, "backup", "The backup broke off; nothing was kept of it. Try again.", []);
                }
            }

            File.Move(part, whole, true);
        }
        catch (Exception fault) when (fault is InvalidDataException or EndOfStreamException)
        {
            return call.Out.Fail(Exit.Unreachable, "backup", "The backup broke off; nothing was kept of it. Try again.", []);
        }
        finally
        {
            File.Delete(part);
        }

        var bytes = new FileInfo(whole).Length;
        var size = bytes < 1_000_000 ? $"{bytes / 1000.0:0} kB" : $"{bytes / 1_000_000.0:0.0} MB";
        return call.Out.Say(new { file = whole, bytes }, $"Wrote [bold]{Markup.Escape(whole)}[/], {size}. Keep it where nobody else reads it.");
    }

    private static async Task<IReadOnlyList<string>> NamesAsync(Stream file, CancellationToken stop)
    {
        var names = new List<string>();
        await using var open = new GZipStream(file, CompressionMode.Decompress, true);
        await using var tar = new TarReader(open, true);
        while (await tar.GetNextEntryAsync(false, stop) is { } entry)
        {
            names.Add(entry.Name);
        }

        return names;
    }

    private static async Task<int> RestoreAsync(Call call)
    {
        var (file, folder) = (Path.GetFullPath(call.Get(From)), Path.GetFullPath(call.Get(Data)!));
        if (!File.Exists(file))
        {
            throw new UsageException($"There is no file {file}.");
        }

        if (Directory.Exists(folder) && Directory.EnumerateFileSystemEntries(folder).Any())
        {
            throw new UsageException(
                $"The folder {folder} is not empty: a backup takes the place of nothing. Move away what is there, with the service stopped.");
        }

        try
        {
            var restored = await UnpackAsync(file, folder, call.Stop);
            return call.Out.Say(
                new { folder, files = restored }, $"Put back {restored} files into [bold]{Markup.Escape(folder)}[/]. Start the service with that data folder.");
        }
        catch (Exception fault) when (fault is InvalidDataException or EndOfStreamException)
        {
            if (Directory.Exists(folder))
            {
                Directory.Delete(folder, true);
            }

            return call.Out.Fail(Exit.Usage, "restore", $"{file} is no whole backup: {fault.Message}", []);
        }
    }

    private static async Task<int> UnpackAsync(string file, string folder, CancellationToken stop)
    {
        Directory.CreateDirectory(folder, OwnFolder);
        var (count, hasDatabase, isWhole) = (0, false, false);
        await using var packed = File.OpenRead(file);
        await using var open = new GZipStream(packed, CompressionMode.Decompress);
        await using var tar = new TarReader(open);
        while (await tar.GetNextEntryAsync(false, stop) is { } entry)
        {
            var name = entry.Name;
            isWhole |= name == End;
            if (name == End || entry.EntryType is not (TarEntryType.RegularFile or TarEntryType.V7RegularFile))
            {
                continue;
            }

            var at = Path.GetFullPath(Path.Combine(folder, name));
            if ((name is not (Database or Key) && !name.StartsWith("files/", StringComparison.Ordinal))
                || !at.StartsWith(folder + Path.DirectorySeparatorChar, StringComparison.Ordinal))
            {
                throw new InvalidDataException($"it holds a file that no backup has, {name}.");
            }

            Directory.CreateDirectory(Path.GetDirectoryName(at)!, OwnFolder);
            await entry.ExtractToFileAsync(at, false, stop);
            File.SetUnixFileMode(at, Own);
            hasDatabase |= name == Database;
            count++;
        }

        return !hasDatabase ? throw new InvalidDataException("it has no database.") : isWhole ? count : throw new InvalidDataException("its end is missing.");
    }
}
