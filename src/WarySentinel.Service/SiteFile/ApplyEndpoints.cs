using System.Text;
using WarySentinel.Core;
using WarySentinel.Core.Facts;
using WarySentinel.Core.SiteFile;
using WarySentinel.Service.Access;
using WarySentinel.Service.Catalogue;
using WarySentinel.Service.Gates;
using WarySentinel.Service.Letters;
using WarySentinel.Service.Web;
using WarySentinel.Storage;
using ApplyLine = WarySentinel.Contract.SiteFile.ApplyLine;
using Wire = WarySentinel.Contract.SiteFile;

namespace WarySentinel.Service.SiteFile;

/// <summary>The site as text: out, and in again.</summary>
public static class ApplyEndpoints
{
    private static readonly byte[] Schema = ReadSchema();

    /// <summary>Maps the endpoints.</summary>
    public static RouteGroupBuilder MapApply(this RouteGroupBuilder api)
    {
        api.MapGet("/site.yaml", Export).Requires("read").WithTags("Site as text").Produces<string>(200, "application/yaml");
        api.MapPost("/apply", Apply).Requires("write").Takes(long.MaxValue).WithTags("Site as text").Accepts<string>("application/yaml")
            .Produces<ApplyLine>(200, "application/x-ndjson");
        api.MapGet("/site.schema.json", () => Results.Bytes(Schema, "application/schema+json")).WithTags("Site as text")
            .Produces<object>(200, "application/schema+json");
        return api;
    }

    private static async Task Export(HttpContext http, PolicyHolder policies, ServiceOptions options)
    {
        using var written = new MemoryStream();
        await using (var to = new StreamWriter(written, new UTF8Encoding(false), 64 * 1024, true))
        {
            SiteFileWriter.Write(policies.Current, options.AdminUrl.TrimEnd('/') + "/api/v1/site.schema.json", to);
        }

        http.Response.ContentType = "application/yaml; charset=utf-8";
        http.Response.Headers.ContentDisposition = "attachment; filename=\"site.yaml\"";
        written.Position = 0;
        await written.CopyToAsync(http.Response.Body, http.RequestAborted);
    }

    /// <summary>Takes a site file. Everything it says is stored, or nothing.</summary>
    private static async Task Apply(
        HttpContext http, PolicyHolder policies, SurroundingsReader surroundings, Store store, ServiceOptions options, bool? dryRun, bool? prune,
        long? revision)
    {
        var by = Caller.Of(http).Name;
        await using var body = await Spool.ReadAsync(http, options.Data, options.ImportMaxBytes);
        if (body is null)
        {
            await Admission.TooLarge(options.ImportMaxBytes).ToHttp().ExecuteAsync(http);
            return;
        }

        await Lines.StreamAsync<ApplyLine>(
            http,
            async (tell, stop) =>
            {
                tell(new ApplyLine("reading", 0, 0));
                if (await ImportText.CheckAsync(body, stop) is { } unreadable)
                {
                    tell(new ApplyLine("failed", 0, 0, new Wire.SiteDifference(0, 0, 0, 0, 0, [], 0, [], unreadable.Faults.ToReader()),
                        Detail: unreadable.Detail.ToReader()));
                    return;
                }

                var (file, faults) = SiteFileReader.Read(ImportText.ReaderOf(body), false, n => tell(new ApplyLine("reading", n, 0)), stop);
                tell(new ApplyLine("comparing", 0, 0));
                tell(await StoreAsync(file, faults, new ApplyRequest(by, dryRun == true, prune == true, revision), policies, surroundings, store, tell, stop));
            },
            detail => new ApplyLine("failed", 0, 0, Detail: detail));
    }

    private sealed record ApplyRequest(string By, bool DryRun, bool Prune, long? Revision);

    /// <summary>Compares a file with the site, stores it where that is asked for, and gives the last line.</summary>
    private static async Task<ApplyLine> StoreAsync(
        SiteDocument file, IReadOnlyList<Fault> faults, ApplyRequest asked, PolicyHolder policies, SurroundingsReader surroundings, Store store,
        Action<ApplyLine> tell, CancellationToken stop)
    {
        var members = await policies.NamedMembersAsync(AudiencesIn(file).OfType<string>(), stop);
        var (total, stored) = (0, false);
        Wire.SiteDifference? difference = null;
        async Task<Outcome<Edit<SiteDifference>>> CompareAsync(Core.Access.Policy policy)
        {
            if (asked.Revision is not null && asked.Revision != policies.Revision)
            {
                return Problem.Of(ProblemKind.Stale, "apply-moved");
            }

            var around = await surroundings.ReadAsync(policy, [], stop);
            var held = asked.Prune ? await store.HoldersAsync(stop) : new Dictionary<(FactKind, string), int>();
            var (found, edit) = SiteFileCommands.Apply(
                policy, file, faults, asked.Prune, around, members.Contains, (kind, key) => held.GetValueOrDefault((kind, key)), LiquidCheck.Check);
            (difference, total, stored) = (found.ToWire(), found.Added + found.Changed, edit is not null && !asked.DryRun);
            return new Edit<SiteDifference>(stored ? edit! : new Edit("apply", "site", []), found);
        }

        var telling = new Telling(done => tell(new ApplyLine("storing", done, total)));
        return (await policies.ChangeAsync<SiteDifference>(CompareAsync, asked.By, stop, telling)).Match(
            found => new ApplyLine(
                found.Faults.Count > 0 ? "failed" : "done", total, total, difference, stored && found.Faults.Count == 0, policies.Revision,
                found.Faults.Count > 0 ? Wording.Of("problem.several", found.Faults.Count).ToReader() : null),
            problem => new ApplyLine("failed", 0, 0, difference, Detail: problem.Detail.ToReader()));
    }

    private static IEnumerable<string?> AudiencesIn(SiteDocument file) =>
    [
        .. (file.Gates ?? []).Select(g => g.Draft.Audience), .. (file.Redirects ?? []).Select(r => r.Draft.Audience),
        .. (file.Groups ?? []).Select(g => g.Draft.Rule), .. (file.Terms ?? []).Select(t => t.Draft.Audience), file.Directory?.Draft.Audience,
    ];

    internal static Wire.SiteDifference ToWire(this SiteDifference found) => new(
        found.Added, found.Changed, found.Removed, found.Same, found.Beside, [.. found.Changes.Select(c => c.ToWire())], found.MoreChanges,
        [.. found.Kept.Select(k => k.ToReader())], found.Faults.ToReader());

    private static byte[] ReadSchema()
    {
        using var stream = typeof(ApplyEndpoints).Assembly.GetManifestResourceStream("site.schema.json")!;
        using var copy = new MemoryStream();
        stream.CopyTo(copy);
        return copy.ToArray();
    }
}
