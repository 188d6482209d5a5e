using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.People.Directory;
using WarySentinel.Storage.Access;

namespace WarySentinel.Storage.People;

/// <summary>What a member shows of themselves in the directory: a row a field, and one without a field that says that they stand in it at all.</summary>
internal sealed class ListingRow
{
    public Guid MemberId { get; set; }

    /// <summary>The key of a field; empty for the member themselves.</summary>
    public required string Field { get; set; }

    public static void Map(EntityTypeBuilder<ListingRow> e)
    {
        e.ToTable("listings");
        e.HasKey(r => new { r.MemberId, r.Field });
        e.HasIndex(r => new { r.Field, r.MemberId });
        e.HasOne<MemberRow>().WithMany().HasForeignKey(r => r.MemberId).OnDelete(DeleteBehavior.Cascade);
    }
}

/// <summary>The directory; one row.</summary>
internal sealed class DirectoryRow
{
    public const string Only = "directory";

    public required string Key { get; set; }

    /// <summary>Who may look at it; empty for nobody.</summary>
    public required string Audience { get; set; }

    public string? Title { get; set; }

    public string? Lead { get; set; }

    /// <summary>Keys of fields, a line each.</summary>
    public required string Fields { get; set; }

    public int Version { get; set; }

    public static DirectoryRow Of(MemberDirectory directory) => new()
    {
        Key = Only, Audience = directory.Audience?.ToString() ?? "", Title = directory.Title, Lead = directory.Lead,
        Fields = string.Join('\n', directory.Fields), Version = directory.Version,
    };

    /// <summary>The directory; one whose audience cannot be read is nobody's to look at, and is told of.</summary>
    public static MemberDirectory Read(IReadOnlyList<DirectoryRow> rows, List<StoredFault> faults)
    {
        if (rows is not [var row, ..])
        {
            return new MemberDirectory();
        }

        var audience = row.Audience.Length == 0 ? (Outcome<Audience>?)null : AudienceParser.ParseStored(row.Audience);
        if (audience?.Problem is { } problem)
        {
            faults.Add(StoredFault.Harmless(Only, Only, Wording.Of("stored.audience", problem.Detail, row.Audience)));
        }

        return new MemberDirectory(
            audience is { IsGood: true } good ? good.Value : null, row.Title, row.Lead, row.Fields.Split('\n', StringSplitOptions.RemoveEmptyEntries),
                row.Version);
    }

    public static void Map(EntityTypeBuilder<DirectoryRow> e)
    {
        e.ToTable("directory");
        e.HasKey(r => r.Key);
    }
}

/// <summary>How the directory is stored.</summary>
internal static class DirectoryChanges
{
    public static void Register(Writers writers)
    {
        writers.On<DirectoryPut>((w, put) => w.PutAsync(DirectoryRow.Of(put.Directory), DirectoryRow.Only));
        writers.Also<FactReplaced>((w, replaced) =>
            AudienceChanges.ReplaceAsync(w, replaced, w.Db.Directory, r => r.Audience, (r, audience) => r.Audience = audience));
        writers.On<ListingSet>(async (w, set) =>
        {
            await w.SaveAsync();
            await w.Db.Listings.Where(l => l.MemberId == set.Member).ExecuteDeleteAsync(w.Stop);
            foreach (var field in set.Fields is null ? [] : set.Fields.Prepend(""))
            {
                w.Rows.Insert(new ListingRow { MemberId = set.Member, Field = field });
            }
        });
    }
}
