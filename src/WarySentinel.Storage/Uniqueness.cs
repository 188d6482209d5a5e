using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Npgsql;
using WarySentinel.Core;
using WarySentinel.Core.People;

namespace WarySentinel.Storage;

/// <summary>Two of what there may be one of: the database's own index is the judge, on one machine and on several.</summary>
internal static class Uniqueness
{
    /// <summary>Whether a unique index refused a row (SQLSTATE 23505; SQLITE_CONSTRAINT_UNIQUE and _PRIMARYKEY).</summary>
    public static bool IsBroken(Exception fault) => Said(fault) is PostgresException { SqlState: PostgresErrorCodes.UniqueViolation }
        or SqliteException { SqliteExtendedErrorCode: 2067 or 1555 };

    /// <summary>What that means for an edit: a member who is there already is refused; anything else was just done by somebody else.</summary>
    public static Exception Of(Edit edit, Exception fault)
    {
        var member = edit.Changes.OfType<MemberAdded>().Select(c => c.Member).Concat(edit.Changes.OfType<MemberSet>().Select(c => c.Member))
            .FirstOrDefault();
        if (edit.Changes.OfType<OrganisationAdded>().FirstOrDefault() is { Organisation.Key: var key })
        {
            var taken = Wording.Of("problem.organisation-exists", key);
            return new StoreRefusedException(new Problem(ProblemKind.Conflict, "organisation-exists", taken, [new Fault("key", taken)]));
        }

        var said = Said(fault) is PostgresException { ConstraintName: { } index } ? index : Said(fault).Message;
        var field = said.Contains("UserName", StringComparison.Ordinal) ? "userName" : said.Contains("Email", StringComparison.Ordinal) ? "email" : null;
        if (member is null || field is null)
        {
            return new StoreMovedException();
        }

        var text = Wording.Of("problem.member-exists", field == "email" ? member.Email : member.UserName);
        return new StoreRefusedException(new Problem(ProblemKind.Conflict, "member-exists", text, [new Fault(field, text)]));
    }

    /// <summary>What the database itself said.</summary>
    private static Exception Said(Exception fault) => fault is DbUpdateException { InnerException: { } inner } ? inner : fault;
}
