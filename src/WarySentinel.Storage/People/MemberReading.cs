using System.Data.Common;
using Microsoft.EntityFrameworkCore;
using Npgsql;

namespace WarySentinel.Storage.People;

/// <summary>
/// One member with all that they hold, straight from the columns: it is read before everything that is written of people, and by entities costs as much
/// as writing it.
/// </summary>
internal static class MemberReading
{
    private const int FirstOfGrant = 15;

    private const string Columns = """
        SELECT m."Id", m."Email", m."Name", m."UserName", m."PasswordHash", m."Status", m."CreatedAt", m."Version",
               m."StatusAt", m."StatusBy", m."StatusWords", m."SeenAt", m."Language", m."Unsubscribed", m."Said", g."Id", g."Kind", g."Key",
               g."From", g."Until", g."Source", g."Reference"
        FROM members AS m LEFT JOIN grants AS g ON g."MemberId" = m."Id" WHERE
        """;

    /// <summary>The member of that id, or null.</summary>
    public static Task<MemberRow?> MemberAsync(this StoreContext db, Guid id, CancellationToken stop) => ReadAsync(db, " m.\"Id\" = {0}", id, stop);

    /// <summary>The member with that address or user name, or null.</summary>
    public static Task<MemberRow?> MemberAsync(this StoreContext db, string name, CancellationToken stop) =>
        ReadAsync(db, " m.\"Id\" = (SELECT n.\"Id\" FROM members AS n WHERE n.\"Email\" = {0} OR n.\"UserName\" = {0} LIMIT 1)", name, stop);

    private static async Task<MemberRow?> ReadAsync(StoreContext db, string where, object value, CancellationToken stop)
    {
        await db.Database.OpenConnectionAsync(stop);
        await using var command = db.Database.GetDbConnection().CreateCommand();
        var place = command.CreateParameter();
        (place.ParameterName, place.Value) = (command is NpgsqlCommand ? "" : "@p0", value);
        command.Parameters.Add(place);
        command.CommandText = Columns + string.Format(System.Globalization.CultureInfo.InvariantCulture, where, command is NpgsqlCommand ? "$1" : "@p0");
        await using var reader = await command.ExecuteReaderAsync(stop);
        MemberRow? member = null;
        while (await reader.ReadAsync(stop))
        {
            member ??= Member(reader);
            if (!reader.IsDBNull(FirstOfGrant))
            {
                member.Grants.Add(Grant(reader, member.Id));
            }
        }

        return member;
    }

    private static MemberRow Member(DbDataReader at) => new()
    {
        Id = at.GetGuid(0), Email = at.GetString(1), Name = at.GetString(2), UserName = Text(at, 3), PasswordHash = Text(at, 4), Status = at.GetInt32(5),
        CreatedAt = Time(at, 6)!.Value, Version = at.GetInt32(7), StatusAt = Time(at, 8), StatusBy = Text(at, 9), StatusWords = Text(at, 10),
        SeenAt = Time(at, 11), Language = Text(at, 12), Unsubscribed = at.GetBoolean(13), Said = Text(at, 14),
    };

    private static GrantRow Grant(DbDataReader at, Guid member) => new()
    {
        Id = at.GetGuid(FirstOfGrant), MemberId = member, Kind = at.GetInt32(FirstOfGrant + 1), Key = at.GetString(FirstOfGrant + 2),
        From = Time(at, FirstOfGrant + 3), Until = Time(at, FirstOfGrant + 4), Source = at.GetString(FirstOfGrant + 5),
        Reference = at.GetString(FirstOfGrant + 6),
    };

    private static string? Text(DbDataReader at, int column) => at.IsDBNull(column) ? null : at.GetString(column);

    private static DateTimeOffset? Time(DbDataReader at, int column) =>
        at.IsDBNull(column) ? null : new DateTimeOffset(at.GetInt64(column), TimeSpan.Zero);
}
