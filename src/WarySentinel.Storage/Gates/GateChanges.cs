using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.Access;
using WarySentinel.Core.Gates;
using WarySentinel.Storage.Access;
using WarySentinel.Storage.Nodes;

namespace WarySentinel.Storage.Gates;

/// <summary>How gates and settings are stored.</summary>
internal static class GateChanges
{
    /// <summary>The mark that holds the settings.</summary>
    public const string Settings = "settings";

    public static void Register(Writers writers)
    {
        writers.On<GatePut>((w, put) => w.PutAsync(GateRow.Of(put.Gate), put.Gate.Key));
        writers.On<GateDropped>(async (w, dropped) =>
        {
            // What its passwords unlocked goes with them.
            w.News.Tell(Told.Gate, dropped.Key);
            await w.Db.Gates.Where(g => g.Key == dropped.Key).ExecuteDeleteAsync(w.Stop);
        });
        writers.Also<FactReplaced>((w, replaced) => AudienceChanges.ReplaceAsync(
            w, replaced, w.Db.Gates, g => g.Audience, (g, audience) => (g.Audience, g.Version) = (audience, g.Version + 1)));
        writers.On<SettingsPut>((w, put) =>
            w.PutAsync(new MarkRow { Name = Settings, Text = JsonSerializer.Serialize(put.Settings) }, Settings));
    }
}
