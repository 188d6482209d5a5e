using System.Formats.Tar;
using System.IO.Compression;
using System.Text.Json;
using WarySentinel.Core;
using WarySentinel.Core.SetUp;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.SetUp;

/// <summary>
/// Everything that is kept, as one packed file (tar, POSIX.1-2001, in gzip): the database of one moment, the secret, and where wanted the files of folders to
/// download from. Whoever has it has everything: only owners get it.
/// </summary>
public static class BackupEndpoints
{
    private const string Database = "sentinel.db";
    private const string Secret = "secret.key";

    /// <summary>Maps the endpoint.</summary>
    public static RouteGroupBuilder MapBackup(this RouteGroupBuilder api)
    {
        api.MapGet("/backup", GiveAsync).Requires("tokens").WithTags("Set-up").Produces<byte[]>(200, "application/gzip");
        return api;
    }

    private static async Task GiveAsync(HttpContext http, bool? files, Store store, PeopleLane people, ServiceOptions options, TimeProvider time)
    {
        if (!store.CopiesItself)
        {
            await Problem.Of(ProblemKind.Conflict, "backup-elsewhere").ToHttp().ExecuteAsync(http);
            return;
        }

        var spool = Directory.CreateDirectory(Path.Combine(options.Data, "spool"), DataFolder.Private).FullName;
        var copy = Path.Combine(spool, $"backup-{Guid.NewGuid():N}.db");
        try
        {
            await Task.Run(() => store.CopyTo(copy), http.RequestAborted);
            File.SetUnixFileMode(copy, DataFolder.OwnFile);
            await people.ChangeAsync(BackupTaken.Edit(new FileInfo(copy).Length, files == true), Caller.Of(http).Name);
            var at = time.GetUtcNow();
            http.Response.ContentType = "application/gzip";
            http.Response.Headers.CacheControl = "no-store";
            http.Response.Headers.ContentDisposition = $"attachment; filename=\"wary-{at:yyyyMMdd-HHmmss}.tar.gz\"";
            await WriteAsync(http, copy, options, files == true, at);
        }
        finally
        {
            File.Delete(copy);
        }
    }

    private static async Task WriteAsync(HttpContext http, string copy, ServiceOptions options, bool withFiles, DateTimeOffset at)
    {
        var stop = http.RequestAborted;
        await using var packed = new GZipStream(http.Response.Body, CompressionLevel.Fastest, true);
        await using var tar = new TarWriter(packed, TarEntryFormat.Pax, true);
        await tar.WriteEntryAsync(copy, Database, stop);
        var secret = Path.Combine(options.Data, Secret);
        if (File.Exists(secret))
        {
            await tar.WriteEntryAsync(secret, Secret, stop);
        }

        var folder = Path.GetFullPath(options.Files.Length > 0 ? options.Files : Path.Combine(options.Data, "files"));
        var all = new EnumerationOptions { RecurseSubdirectories = true, AttributesToSkip = FileAttributes.ReparsePoint };
        foreach (var file in withFiles && Directory.Exists(folder) ? Directory.EnumerateFiles(folder, "*", all) : [])
        {
            await tar.WriteEntryAsync(file, "files/" + Path.GetRelativePath(folder, file), stop);
        }

        // Last: a file that has it has all of it.
        var said = JsonSerializer.SerializeToUtf8Bytes(new
        { product = "Wary Sentinel", version = typeof(Sentinel).Assembly.GetName().Version?.ToString(3), at, files = withFiles });
        await tar.WriteEntryAsync(new PaxTarEntry(TarEntryType.RegularFile, "backup.json")
        { DataStream = new MemoryStream(said), Mode = DataFolder.OwnFile, ModificationTime = at }, stop);
    }
}
