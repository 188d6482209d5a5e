using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.People;
using WarySentinel.Storage.Nodes;

namespace WarySentinel.Storage.People;

/// <summary>How sessions end by an edit.</summary>
internal static class SessionChanges
{
    public static void Register(Writers writers) => writers.On<SessionsEnded>(async (w, ended) =>
    {
        var over = w.Db.Sessions.Where(s => s.MemberId == ended.Member && s.Id != ended.Except);
        await w.Db.Sessions.Where(v => over.Any(s => s.Id == v.MadeBySession)).ExecuteDeleteAsync(w.Stop);
        await over.ExecuteDeleteAsync(w.Stop);
        w.News.Tell(Told.Member, ended.Member.ToString("N"));
    });
}
