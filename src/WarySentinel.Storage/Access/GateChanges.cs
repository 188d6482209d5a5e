using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using WarySentinel.Core;
using WarySentinel.Storage.Nodes;

namespace WarySentinel.Storage.Access;

/// <summary>How gates, roles and settings are stored.</summary>
internal static class GateChanges
{
    /// <summary>The mark that holds the settings.</summary>
    public const string Settings = "settings";

    public static void Register(Writers writers)
    {
        writers.On<Change.GatePut>((w, put) => w.PutAsync(GateRow.Of(put.Gate), put.Gate.Key));
        writers.On<Change.GateDropped>(async (w, dropped) =>
        {
            // What its passwords unlocked goes with them.
            w.News.Tell(Told.Gate, dropped.Key);
            await w.Db.Gates.Where(g => g.Key == dropped.Key).ExecuteDeleteAsync(w.Stop);
        });
        writers.On<Change.StandingPut>((w, put) => w.PutAsync(StandingRow.Of(put.Standing), (int)put.Standing.Kind, put.Standing.Key));
        writers.On<Change.StandingDropped>((w, dropped) =>
            w.Db.Standings.Where(s => s.Kind == (int)dropped.Kind && s.Key == dropped.Key).ExecuteDeleteAsync(w.Stop));
        writers.On<Change.SettingsPut>((w, put) =>
            w.PutAsync(new MarkRow { Name = Settings, Text = JsonSerializer.Serialize(put.Settings) }, Settings));
    }
}
